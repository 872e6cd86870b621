<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Shapes } from '@/api/client'
import { vScrolls } from '@/shared/scrolls'

/** What taking a file in does to every row: cell by cell, before and after. */
const props = defineProps<{ seen: Shapes['TakeInOut']; changes: Shapes['RowChangeOut'][] }>()
defineEmits<{ more: [] }>()

const only = ref<'' | 'touched'>('')
const all = computed(() => props.seen.added + props.seen.changed + props.seen.removed)
const shown = computed(() =>
  props.changes.filter((one) => !only.value || (one.what !== 'added' && (one.by_hand || one.expected))),
)
const WORDS = { added: 'new', changed: 'changed', removed: 'goes' } as const
const touched = (one: Shapes['RowChangeOut']) =>
  [one.what !== 'added' && one.by_hand && 'made by hand', one.expected && 'expected values']
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <div data-role="changes">
    <p class="flex flex-wrap items-center gap-3" data-role="would-change">
      {{ seen.count }} {{ seen.count === 1 ? 'row' : 'rows' }}: {{ seen.added }} added,
      {{ seen.changed }} changed, {{ seen.removed }} removed.
      <label v-if="seen.by_hand || seen.expected" class="flex items-center gap-1.5 text-bad">
        <input v-model="only" type="checkbox" true-value="touched" false-value="" />
        only what touches
        {{
          [
            seen.by_hand && `${seen.by_hand} made by hand`,
            seen.expected && `${seen.expected} with expected values`,
          ]
            .filter(Boolean)
            .join(' and ')
        }}
      </label>
    </p>
    <ul v-if="changes.length" v-scrolls class="panel mt-1 max-h-64 overflow-auto">
      <li
        v-for="one in shown"
        :key="`${one.before} ${one.after}`"
        class="flex gap-2 border-b border-line px-2 py-1 last:border-0"
        data-role="row-change"
      >
        <span class="w-28 shrink-0" :class="one.what === 'removed' && 'text-bad'">
          {{ WORDS[one.what] }}
          <span class="text-soft">row {{ one.after ?? one.before }}</span>
        </span>
        <span class="min-w-0 flex-1 wrap-anywhere">
          <span v-for="cell in one.cells" :key="cell.column" class="mr-3 inline-block">
            <span class="text-soft">{{ cell.column }}</span>
            {{ ' ' }}<template v-if="cell.stays">stays “{{ cell.after }}”</template>
            <template v-else-if="one.what === 'changed'">
              <s class="text-soft">{{ cell.before || '(empty)' }}</s> {{ cell.after || '(empty)' }}
            </template>
            <template v-else>{{ cell.after || cell.before }}</template>
          </span>
        </span>
        <span v-if="touched(one)" class="shrink-0 text-xs text-bad">{{ touched(one) }}</span>
      </li>
      <li v-if="!shown.length" class="px-2 py-1 text-soft">None among those that are shown.</li>
      <li v-if="changes.length < all" class="px-2 py-1 text-center">
        <button type="button" class="button" @click="$emit('more')">{{ all - changes.length }} more</button>
      </li>
    </ul>
    <p v-else class="text-soft">Nothing would change.</p>
  </div>
</template>
