<script setup lang="ts">
import { Hand } from '@lucide/vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Shapes } from '@/api/client'

/** A row that failed while its author watches: it can be taken in hand as long as the clock runs. */
const props = defineProps<{ offer: Shapes['OfferSaid'] }>()
defineEmits<{ take: []; leave: [] }>()
const LOOK = 200
const until = ref(0)
const left = ref(0)
const tick = () => (left.value = Math.max((until.value - Date.now()) / 1000, 0))
watch(
  () => props.offer,
  (now) => {
    until.value = Date.now() + now.seconds * 1000
    tick()
  },
  { immediate: true },
)
useIntervalFn(tick, LOOK)
const there = computed(() => props.offer.seconds > 0 && left.value > 0)
</script>

<template>
  <div
    v-if="there"
    class="flex flex-wrap items-center gap-2 border-b border-line bg-lit-paper px-3 py-1.5 text-sm text-lit-ink"
    role="alert"
    data-role="offer"
  >
    <Hand :size="15" class="shrink-0" />
    <p class="min-w-0 flex-1 wrap-anywhere">
      <span class="font-story text-ink">{{ offer.sentence }}</span> is failing: {{ offer.message }}
    </p>
    <button class="button button-main" data-role="take" @click="$emit('take')">
      Take it in hand ({{ Math.ceil(left) }} s)
    </button>
    <button class="button" @click="$emit('leave')">Let it fail</button>
  </div>
</template>
