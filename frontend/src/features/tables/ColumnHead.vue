<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { ArrowDownAZ, ArrowUpAZ, Trash2 } from '@lucide/vue'
import { computed, ref, watch } from 'vue'

import type { Test } from '@/api/client'
import { beside } from '@/shared/beside'

import type { Column, Table } from './useTable'
import { vScrolls } from '@/shared/scrolls'

/** The head of a column: its name everywhere, its type and role, sorting, deleting. */
const props = defineProps<{ column: Column; table: Table; test: Test; fixed: boolean }>()

const TYPES: Column['type'][] = ['text', 'number', 'date', 'yes/no', 'choice']
const ROLES: { key: Column['role']; name: string }[] = [
  { key: 'input', name: 'goes in' },
  { key: 'expected', name: 'is expected' },
  { key: 'browser', name: 'names the browser' },
  { key: 'note', name: 'is a note' },
]
const fresh = ref('')
const choices = ref('')
watch(
  () => props.column,
  (now) => {
    fresh.value = now.name
    choices.value = now.choices.join('\n')
  },
  { immediate: true },
)
const places = computed(() =>
  props.test.steps.filter((step) =>
    Object.values(step.inputs).some((value) => value.includes(`\${row.${props.column.name}}`)),
  ),
)
const set = (part: Partial<Column>) => props.table.setColumn({ ...props.column, ...part })
const setChoices = () =>
  set({
    choices: choices.value
      .split('\n')
      .map((one) => one.trim())
      .filter(Boolean),
  })

async function rename(close: () => void) {
  if (fresh.value === props.column.name) return
  if (await props.table.renameColumn(props.column.name, fresh.value.trim())) close()
}
</script>

<template>
  <span v-if="fixed">{{ column.name }}</span>
  <Popover v-else v-slot="{ close }" class="relative">
    <PopoverButton
      class="flex w-full items-baseline gap-1 rounded text-left hover:underline"
      :aria-label="`Column ${column.name}`"
    >
      <span class="wrap-anywhere">{{ column.name }}</span>
      <span v-if="column.role !== 'input'" class="font-normal text-soft">{{ column.role }}</span>
      <span v-if="column.type !== 'text'" class="font-normal text-soft">{{ column.type }}</span>
    </PopoverButton>
    <PopoverPanel
      class="floating fixed w-72 p-3 text-sm font-normal"
      data-role="column-panel"
      @vue:mounted="beside"
    >
      <form class="flex gap-2" @submit.prevent="rename(close)">
        <input v-model="fresh" class="field" name="rename" aria-label="Name of the column" required />
        <button class="button" :disabled="fresh === column.name">Rename</button>
      </form>
      <p class="mt-1 text-xs text-soft" data-role="column-places">
        {{
          places.length === 0
            ? 'No sentence uses it yet.'
            : `Used by ${places.length === 1 ? 'one sentence' : `${places.length} sentences`}, which will use the new name:`
        }}
      </p>
      <ul v-if="places.length" v-scrolls class="max-h-20 overflow-auto text-xs">
        <li v-for="step in places" :key="step.id" class="truncate font-story">{{ step.sentence }}</li>
      </ul>
      <div class="mt-2 grid grid-cols-2 gap-2 border-t border-line pt-2">
        <label
          >holds
          <select
            class="field mt-0.5"
            :value="column.type"
            aria-label="Type of the column"
            @change="set({ type: TYPES[($event.target as HTMLSelectElement).selectedIndex]! })"
          >
            <option v-for="one in TYPES" :key="one">{{ one }}</option>
          </select></label
        >
        <label
          >what is in it
          <select
            class="field mt-0.5"
            :value="column.role"
            aria-label="Role of the column"
            @change="set({ role: ROLES[($event.target as HTMLSelectElement).selectedIndex]!.key })"
          >
            <option v-for="one in ROLES" :key="one.key" :value="one.key">{{ one.name }}</option>
          </select></label
        >
      </div>
      <label v-if="column.type === 'choice'" class="mt-2 block"
        >choices, one a line
        <textarea v-model="choices" class="field mt-0.5" rows="3" @change="setChoices" />
      </label>
      <div class="mt-2 flex gap-1 border-t border-line pt-2">
        <button class="button-bare" @click="(table.sortBy(column.name, false), close())">
          <ArrowDownAZ :size="15" /> Sort up
        </button>
        <button class="button-bare" @click="(table.sortBy(column.name, true), close())">
          <ArrowUpAZ :size="15" /> Sort down
        </button>
        <button
          class="button-bare ml-auto"
          :aria-label="`Delete column ${column.name}`"
          title="Delete it"
          @click="(table.removeColumn(column.name), close())"
        >
          <Trash2 :size="15" />
        </button>
      </div>
    </PopoverPanel>
  </Popover>
</template>
