<script setup lang="ts">
import { ref, watch } from 'vue'

import { percent } from '@/features/review/kinds'

import { wordsOf } from './words'
import type { Spot } from './words'

/** Something that may change: who would notice, or the check that would. */
const props = defineProps<{ spot: Spot; chosen: boolean; busy: boolean; fixed: boolean }>()
const emit = defineEmits<{ choose: []; add: [] }>()
const card = ref<HTMLElement | null>(null)
watch(
  () => props.chosen,
  (now) => now && card.value?.scrollIntoView({ block: 'nearest' }),
  { flush: 'post' },
)
</script>

<template>
  <li
    ref="card"
    class="rounded-md border px-3 py-2 text-sm"
    :class="chosen ? 'border-ink bg-lit-paper' : 'border-line bg-sheet'"
    data-role="spot"
    :data-kind="spot.kind"
    :data-blind="!spot.by"
    @mouseenter="emit('choose')"
  >
    <p class="wrap-anywhere">
      {{ wordsOf(spot) }}
      <span v-if="spot.depends" class="chip ml-1 text-xs" title="It shows something else in another row"
        >depends on the row</span
      >
    </p>
    <p v-if="spot.by" class="mt-0.5 text-xs text-soft wrap-anywhere">Noticed by: {{ spot.by }}</p>
    <template v-else-if="spot.offer">
      <p class="story mt-1 wrap-anywhere" data-role="offer">{{ spot.offer.sentence }}</p>
      <p class="mt-1 flex items-center gap-2 text-xs text-soft">
        <span v-if="spot.offer.adds >= 0.005">would notice {{ percent(spot.offer.adds) }} more</span>
        <button
          v-if="!fixed"
          class="button ml-auto py-0.5"
          :disabled="busy"
          :aria-label="`Add this check: ${spot.offer.sentence}`"
          @click="emit('add')"
          @focus="emit('choose')"
        >
          Add this check
        </button>
      </p>
    </template>
    <p v-else class="mt-0.5 text-xs text-soft">No check says this in one sentence.</p>
  </li>
</template>
