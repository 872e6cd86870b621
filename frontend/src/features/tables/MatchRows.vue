<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'

/** By what rows of a file are known to be rows that there are: proposed, shown, to be changed. */
const props = defineProps<{ seen: Shapes['TakeInOut'] }>()
const match = defineModel<string>({ required: true })

const PLACE = 'by place'
const NEW = 'all new'
const shown = computed(() => match.value || props.seen.match)
const way = computed(() => ([PLACE, NEW].includes(shown.value) ? shown.value : 'columns'))
const columns = computed(() => (way.value === 'columns' ? shown.value.split(', ') : []))

function choose(which: string) {
  if (which !== 'columns') match.value = which
  else
    match.value = [PLACE, NEW].includes(props.seen.proposed)
      ? (props.seen.common[0] ?? NEW)
      : props.seen.proposed
}
function toggle(name: string, on: boolean) {
  const left = props.seen.common.filter((one) => (one === name ? on : columns.value.includes(one)))
  match.value = left.join(', ') || NEW
}
</script>

<template>
  <fieldset class="flex flex-wrap items-center gap-x-3 gap-y-1" data-role="match">
    <legend class="sr-only">Which rows are the same</legend>
    <label
      >A row is the same
      <select
        class="field ml-1 w-auto"
        :value="way"
        aria-label="When is a row the same"
        @change="choose(($event.target as HTMLSelectElement).value)"
      >
        <option value="columns" :disabled="!seen.common.length">when these columns agree</option>
        <option :value="PLACE">when it stands in the same place</option>
        <option :value="NEW">never: all rows are new</option>
      </select></label
    >
    <span v-if="way === 'columns'" class="flex flex-wrap gap-2">
      <label v-for="name in seen.common" :key="name" class="flex items-center gap-1">
        <input
          type="checkbox"
          :checked="columns.includes(name)"
          :aria-label="`${name} tells which row it is`"
          @change="toggle(name, ($event.target as HTMLInputElement).checked)"
        />
        {{ name }}
      </label>
    </span>
    <span v-if="shown === seen.proposed" class="text-soft">as proposed</span>
  </fieldset>
</template>
