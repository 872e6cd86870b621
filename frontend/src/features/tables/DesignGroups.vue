<script setup lang="ts">
import { X } from '@lucide/vue'

import type { Shapes } from '@/api/client'
import IconButton from '@/shared/IconButton.vue'

/** Groups of columns that are combined more closely among each other than the rest. */
defineProps<{ columns: string[] }>()
const groups = defineModel<Required<Shapes['DesignGroup']>[]>({ required: true })

const CLOSENESS = ['each value once', 'pairs', 'triples', 'fours', 'fives', 'sixes']

function toggle(place: number, column: string) {
  const { inputs, strength } = groups.value[place]!
  const others = inputs.filter((one) => one !== column)
  const chosen = others.length < inputs.length ? others : [...inputs, column]
  groups.value = groups.value.with(place, { inputs: chosen, strength })
}

function set(place: number, strength: number) {
  groups.value = groups.value.with(place, { ...groups.value[place]!, strength })
}
</script>

<template>
  <fieldset data-role="groups">
    <legend class="mb-1">Combined otherwise among each other</legend>
    <ul class="flex flex-col gap-1">
      <li v-for="(group, place) in groups" :key="place" class="flex items-center gap-2">
        <span class="flex flex-wrap gap-x-3 gap-y-1">
          <label v-for="column in columns" :key="column" class="flex items-center gap-1 wrap-anywhere">
            <input
              type="checkbox"
              :checked="group.inputs.includes(column)"
              :aria-label="`${column} in group ${place + 1}`"
              @change="toggle(place, column)"
            />
            {{ column }}
          </label>
        </span>
        <span class="text-soft">in</span>
        <select
          class="field w-auto"
          :value="group.strength"
          :aria-label="`What group ${place + 1} covers`"
          @change="set(place, Number(($event.target as HTMLSelectElement).value))"
        >
          <option v-for="(word, less) in CLOSENESS" :key="word" :value="less + 1">{{ word }}</option>
        </select>
        <IconButton
          :icon="X"
          :label="`Remove group ${place + 1}`"
          @click="groups = groups.toSpliced(place, 1)"
        />
      </li>
    </ul>
    <button
      type="button"
      class="button-bare"
      title="Columns that are covered with another strength among each other"
      @click="groups = [...groups, { inputs: [], strength: 3 }]"
    >
      Add a group of columns
    </button>
  </fieldset>
</template>
