<script setup lang="ts">
import { computed, ref } from 'vue'

import { pictureUrl } from '@/api/client'

/** A picture of the page under test; `box` (shares of the picture, 0 to 1, or pixels) is lit. */
const props = defineProps<{ digest: string; box?: number[] | null; pixels?: boolean; alt: string }>()
const size = ref({ width: 0, height: 0 })
const tall = computed(() => size.value.height > size.value.width)
const lit = computed(() => {
  const [x, y, width, height] = props.box ?? []
  if (x === undefined || y === undefined || !width || !height) return null
  const whole = props.pixels ? size.value : { width: 1, height: 1 }
  if (!whole.width) return null
  const share = (value: number, of: number) => `${(value / of) * 100}%`
  return {
    left: share(x, whole.width),
    top: share(y, whole.height),
    width: share(width, whole.width),
    height: share(height, whole.height),
  }
})

function measure(event: Event) {
  const { naturalWidth, naturalHeight } = event.target as HTMLImageElement
  size.value = { width: naturalWidth, height: naturalHeight }
}
</script>

<template>
  <div class="relative overflow-hidden rounded-md border border-line bg-sunk" :class="tall && 'max-w-80'">
    <img :src="pictureUrl(digest)" :alt="alt" class="block w-full" loading="lazy" @load="measure" />
    <div v-if="lit" class="light absolute rounded-sm" :style="lit" />
  </div>
</template>

<style scoped>
.light {
  outline: 2px solid var(--lit);
  outline-offset: 2px;
  box-shadow: 0 0 0 200rem rgb(25 18 8 / 0.28);
}
</style>
