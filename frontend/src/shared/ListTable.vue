<script setup lang="ts" generic="T extends { id: number | string }">
import { ArrowDown } from '@lucide/vue'
import { tableFeatures, useTable } from '@tanstack/vue-table'
import { computed } from 'vue'

import type { Column, Paged } from './lists'
import { vScrolls } from './scrolls'

/**
 * A list as a table: a slot for each column's cells, sorted by the server, more of it by a press; or
 * some `rows` alone.
 */
const props = defineProps<{ list?: Paged<T>; rows?: T[]; columns: Column[]; role?: string }>()
/** What it is sorted by: the `order` of one of its columns. */
const order = defineModel<string>('order')
defineSlots<{ [cell: string]: (given: { row: T }) => unknown }>()

const features = tableFeatures({})
const table = useTable({
  features,
  columns: computed(() => props.columns.map(({ id }) => ({ id }))),
  data: computed(() => props.rows ?? props.list?.rows.value ?? []),
  getRowId: (row: T) => String(row.id),
})
const shown = computed(() => table.getRowModel().rows)
</script>

<template>
  <div v-scrolls class="panel overflow-auto">
    <table class="list-table">
      <thead>
        <tr>
          <th
            v-for="one in columns"
            :key="one.id"
            :aria-sort="
              one.order && one.order === order ? (one.falling ? 'descending' : 'ascending') : undefined
            "
          >
            <span v-if="one.hidden" class="sr-only">{{ one.title }}</span>
            <button
              v-else-if="one.order"
              class="inline-flex items-center gap-1 hover:text-ink"
              :class="one.order === order && 'text-ink'"
              :title="`Sort by ${one.title.toLowerCase()}`"
              @click="order = one.order"
            >
              {{ one.title
              }}<ArrowDown
                v-if="one.order === order"
                :size="12"
                :class="!one.falling && 'rotate-180'"
                aria-hidden="true"
              />
            </button>
            <template v-else>{{ one.title }}</template>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.id" :data-role="role">
          <td v-for="(cell, place) in row.getAllCells()" :key="cell.id" :class="columns[place]?.class">
            <slot :name="cell.column.id" :row="row.original" />
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="list?.more.value" class="border-t border-line p-2 text-center">
      <button class="button" :disabled="list.busy.value" @click="list.next()">Show more</button>
    </div>
  </div>
</template>
