<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'

/** How a station is, as a shape and a word. */
const props = defineProps<{ station: Shapes['StationOut'] }>()
const state = computed(() => {
  const { up, mode, busy } = props.station
  if (!up) return 'down'
  if (mode === 'draining') return busy ? 'draining' : 'drained'
  return mode === 'paused' ? 'paused' : 'up'
})
</script>

<template>
  <Outcome :outcome="state" data-role="station-state" />
</template>
