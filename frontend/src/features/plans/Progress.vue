<script setup lang="ts">
import { computed } from 'vue'

import { tally, total } from './words'

/** How far a run of a plan is, as a bar: what passed, what did not, what is going on. */
const props = defineProps<{ casts: Record<string, number> }>()
const PARTS = [
  ['passed', 'bg-good'],
  ['unsteady', 'bg-odd'],
  ['failed', 'bg-bad'],
  ['interrupted', 'bg-odd'],
  ['skipped', 'bg-strong-line'],
  ['cancelled', 'bg-strong-line'],
  ['running', 'bg-act'],
] as const
const parts = computed(() => {
  const all = total(props.casts) || 1
  return PARTS.map(([name, colour]) => ({ name, colour, share: (100 * (props.casts[name] ?? 0)) / all }))
})
</script>

<template>
  <div class="flex h-2 overflow-hidden rounded-full bg-sunk" role="img" :aria-label="tally(casts)">
    <span v-for="one in parts" :key="one.name" :class="one.colour" :style="{ width: `${one.share}%` }" />
  </div>
</template>
