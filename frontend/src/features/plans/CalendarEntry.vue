<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import { between, seconds } from '@/shared/times'

import { clock } from '@/shared/times'

/** Something in the calendar: when, of which plan, and how it went or that it is to come. */
const props = defineProps<{ entry: Shapes['CalendarEntry']; fixed: boolean }>()
defineEmits<{ open: [] }>()
const told = computed(() => {
  const { begin, end, kind, plan, state, why, crowded } = props.entry
  const lasts = seconds(between(begin, end))
  const how =
    kind === 'planned'
      ? `to come, takes about ${lasts}`
      : kind === 'missed'
        ? 'not started'
        : `${state}, ${lasts}`
  return `${clock(begin)} ${plan}: ${how}.${crowded ? ' Too much at once.' : ''} ${why}`.trim()
})
function carry(event: DragEvent) {
  event.dataTransfer!.effectAllowed = 'move'
  event.dataTransfer!.setData('text/plain', `${props.entry.schedule} ${props.entry.begin}`)
}
</script>

<template>
  <button
    class="flex w-full items-center gap-1 overflow-hidden rounded border px-1 text-left text-xs"
    :class="[
      entry.kind === 'planned' ? 'border-dashed border-strong-line bg-sheet' : 'border-line bg-sunk',
      entry.crowded && 'border-odd',
    ]"
    :title="told"
    :aria-label="told"
    :draggable="entry.kind === 'planned' && !fixed"
    :data-entry="entry.kind"
    @dragstart="carry"
    @click.stop="$emit('open')"
  >
    <Outcome v-if="entry.kind === 'run'" :outcome="entry.state" bare />
    <Outcome v-else :outcome="entry.kind === 'missed' ? 'interrupted' : 'waiting'" bare />
    <span class="shrink-0 text-soft">{{ clock(entry.begin) }}</span>
    <span class="truncate">{{ entry.plan }}</span>
    <span v-if="entry.crowded" class="ml-auto shrink-0 font-semibold text-odd" aria-hidden="true">!</span>
  </button>
</template>
