<script setup lang="ts">
import Outcome from '@/shared/Outcome.vue'

import Margin from './Margin.vue'
import type { Breakpoints } from './useBreakpoints'

/** How the line of a sentence starts: its margin, what came of it, and its number, lit where it is. */
defineProps<{
  number: number
  place: number
  step: string
  breakpoints: Breakpoints
  fixed: boolean
  outcome?: string
  at: string
}>()
</script>

<template>
  <span class="flex items-center gap-0.5 pt-1"
    ><Margin
      :number="number"
      :point="breakpoints.at(place, step)"
      :off="breakpoints.off.value"
      :fixed="fixed"
      @toggle="breakpoints.toggle(place, step)" /><Outcome v-if="outcome" :outcome="outcome" bare
  /></span>
  <span
    class="rounded text-center text-xs text-soft"
    :class="at === 'held' && 'bg-lit font-semibold text-[#2b2620]'"
    :data-at="at"
    >{{ number }}</span
  >
</template>
