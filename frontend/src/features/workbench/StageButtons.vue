<script setup lang="ts">
import { Circle, CircleDot, Crosshair, ScanSearch, Square } from '@lucide/vue'

/** What is done on the stage: recording, checking, freezing the page. */
defineProps<{ recording: boolean; paused: boolean; busy: boolean }>()
const emit = defineEmits<{ record: [on: boolean, pause: boolean]; still: [] }>()
const checking = defineModel<boolean>('checking', { required: true })
</script>

<template>
  <button v-if="!recording" class="button" data-role="record" @click="emit('record', true, false)">
    <Circle :size="14" /> {{ paused ? 'Resume' : 'Record' }}
  </button>
  <button
    v-else
    class="button border-lit bg-lit-paper text-lit-ink"
    data-role="pause"
    title="Recording: press to pause"
    @click="emit('record', false, true)"
  >
    <CircleDot :size="14" /> Pause
  </button>
  <button v-if="recording || paused" class="button" data-role="stop" @click="emit('record', false, false)">
    <Square :size="13" /> Stop
  </button>
  <button
    class="button"
    :class="checking && 'border-lit bg-lit-paper text-lit-ink'"
    :aria-pressed="checking"
    data-role="check"
    @click="checking = !checking"
  >
    <Crosshair :size="14" /> Check
  </button>
  <button
    class="button"
    data-role="still-button"
    :disabled="busy"
    title="Freeze the page and see all that is on it"
    @click="emit('still')"
  >
    <ScanSearch :size="14" /> Still
  </button>
</template>
