<script setup lang="ts">
import { ref } from 'vue'

import { draw } from './drawing'
import { useLive } from './useLive'

/** The stage of a run, to look at only. */
const props = defineProps<{ path: string }>()
const canvas = ref<HTMLCanvasElement | null>(null)
const pictures = ref(0)

const { phase, trouble } = useLive(
  props.path,
  (picture) => {
    pictures.value += 1
    void draw(canvas.value, picture)
  },
  () => undefined,
)
</script>

<template>
  <div class="panel overflow-hidden" data-role="live-run">
    <canvas v-show="pictures" ref="canvas" class="block w-full" aria-label="The run, live" />
    <p v-if="!pictures" class="p-3 text-sm text-soft">
      {{ phase === 'refused' ? trouble.message : 'Waiting for a picture of the run…' }}
    </p>
  </div>
</template>
