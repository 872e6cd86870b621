<script setup lang="ts">
import { Hand } from '@lucide/vue'
import { computed } from 'vue'

import type { Breakpoint } from './useBreakpoints'

/** The number of a sentence: pressing it sets or takes out a breakpoint; where the row is shows here. */
const props = defineProps<{
  number: number
  point?: Breakpoint
  off: boolean
  at: '' | 'held' | 'playing'
  fixed: boolean
}>()
defineEmits<{ toggle: [] }>()
const title = computed(() => {
  if (!props.point) return 'Stop rehearsals here (B)'
  const told = props.point.told ? ` ${props.point.told}` : ''
  return `Rehearsals stop here${told}${props.off || !props.point.enabled ? ', but this is switched off' : ''} (B)`
})
</script>

<template>
  <button
    type="button"
    class="group/margin relative -ml-1 flex h-6 w-7 items-center justify-center rounded text-xs text-soft hover:bg-sunk disabled:hover:bg-transparent"
    :class="at === 'held' && 'bg-lit font-semibold text-[#2b2620]'"
    :title="title"
    :aria-label="`Breakpoint at sentence ${number}`"
    :aria-pressed="Boolean(point)"
    :disabled="fixed"
    data-role="margin"
    :data-at="at"
    @click.stop="$emit('toggle')"
  >
    <template v-if="point">
      <Hand
        :size="14"
        :class="off || !point.enabled ? 'opacity-40' : at === 'held' ? '' : 'text-act'"
        :fill="off || !point.enabled ? 'none' : 'currentColor'"
        data-role="breakpoint"
      />
      <span v-if="point.told" class="absolute right-0.5 bottom-0 text-[9px] font-bold text-act">?</span>
    </template>
    <template v-else>
      <span class="group-hover/margin:hidden group-focus-visible/margin:hidden">{{ number }}</span>
      <Hand :size="13" class="hidden opacity-60 group-hover/margin:block group-focus-visible/margin:block" />
    </template>
  </button>
</template>
