<script setup lang="ts">
import { ref, shallowRef } from 'vue'

import type { Shapes } from '@/api/client'
import { draw } from '@/features/live/drawing'
import { useLive } from '@/features/live/useLive'

import OfferedRow from './OfferedRow.vue'

/** The stage of a row under way, to look at; its author may take it in hand when it fails. */
const props = defineProps<{ cast: number; mine: boolean }>()
const emit = defineEmits<{ taken: [] }>()
const canvas = ref<HTMLCanvasElement | null>(null)
const pictures = ref(0)
const offer = shallowRef<Shapes['OfferSaid'] | null>(null)

const { phase, trouble, send } = useLive(
  `/api/live/cast/${props.cast}`,
  (picture) => {
    pictures.value += 1
    void draw(canvas.value, picture)
  },
  (said) => {
    if (said.type === 'offer') offer.value = said
  },
)
function take() {
  send({ type: 'take in hand' })
  emit('taken')
}
</script>

<template>
  <div class="panel overflow-hidden" data-role="live-run">
    <OfferedRow v-if="offer && mine" :offer="offer" @take="take" @leave="send({ type: 'let it go' })" />
    <canvas v-show="pictures" ref="canvas" class="block w-full" aria-label="The run, live" />
    <p v-if="!pictures" class="p-3 text-sm text-soft">
      {{ phase === 'refused' ? trouble.message : 'Waiting for a picture of the run…' }}
    </p>
  </div>
</template>
