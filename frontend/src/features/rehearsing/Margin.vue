<script setup lang="ts">
import { Hand } from '@lucide/vue'
import { computed } from 'vue'

import type { Breakpoint } from './useBreakpoints'

/** The margin of a sentence: pressing it sets a breakpoint there, or takes it out. */
const props = defineProps<{ number: number; point?: Breakpoint; off: boolean; fixed: boolean }>()
defineEmits<{ toggle: [] }>()
const idle = computed(() => props.off || !props.point?.enabled)
const title = computed(() => {
  if (!props.point) return 'Stop rehearsals here (B)'
  const told = props.point.told ? ` ${props.point.told}` : ''
  return `Rehearsals stop here${told}${idle.value ? ', but this is switched off' : ''} (B)`
})
</script>

<template>
  <button
    type="button"
    class="group/margin relative flex h-5 w-4 shrink-0 items-center justify-center rounded hover:bg-sunk"
    :title="title"
    :aria-label="`Breakpoint at sentence ${number}`"
    :aria-pressed="Boolean(point)"
    :disabled="fixed"
    tabindex="-1"
    data-role="margin"
    @click.stop="$emit('toggle')"
  >
    <Hand
      v-if="point"
      :size="14"
      :class="idle ? 'text-soft opacity-50' : 'text-act'"
      :fill="idle ? 'none' : 'currentColor'"
      data-role="breakpoint"
    />
    <Hand v-else-if="!fixed" :size="13" class="text-soft opacity-0 group-hover/margin:opacity-70" />
    <span v-if="point?.told" class="absolute -right-0.5 -bottom-0.5 text-[9px] font-bold text-act">?</span>
  </button>
</template>
