<script setup lang="ts">
import { computed } from 'vue'

import { pictureUrl } from '@/api/client'

/** A picture of the page under test; `box` (shares of the picture, 0 to 1) is lit. */
const props = defineProps<{ digest: string; box?: number[] | null; alt: string }>()
const lit = computed(() => {
  const [x, y, width, height] = props.box ?? []
  if (x === undefined || y === undefined || !width || !height) return null
  const share = (value: number) => `${value * 100}%`
  return { left: share(x), top: share(y), width: share(width), height: share(height) }
})
</script>

<template>
  <div class="relative overflow-hidden rounded-md border border-line bg-sunk">
    <img :src="pictureUrl(digest)" :alt="alt" class="block w-full" loading="lazy" />
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
