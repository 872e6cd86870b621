<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'

import { pictureUrl } from '@/api/client'

/** A small piece of the page around what a sentence acts on. */
const props = defineProps<{ digest: string; box: number[] | null }>()

const SIZE = { width: 64, height: 30 }
/** Two and a half page pixels to one of the thumbnail: enough to tell a button from a field. */
const SCALE = 0.4
const MARGIN = 4

/** The page that the picture shows, in its own pixels: pages differ in size. */
const page = ref({ width: 1280, height: 800 })
watchEffect(() => {
  const picture = new Image()
  picture.onload = () => (page.value = { width: picture.naturalWidth, height: picture.naturalHeight })
  picture.src = pictureUrl(props.digest)
})

const style = computed(() => {
  const [x = 0, y = 0, width = 1, height = 1] = props.box ?? []
  const scale = props.box ? SCALE : SIZE.width / page.value.width
  // A wide field is told by its beginning, a small button by its middle.
  const wide = width * page.value.width * scale > SIZE.width
  const left = wide
    ? x * page.value.width * scale - MARGIN
    : (x + width / 2) * page.value.width * scale - SIZE.width / 2
  const top = (y + height / 2) * page.value.height * scale - SIZE.height / 2
  const clamp = (value: number, most: number) => Math.min(Math.max(value, 0), most)
  return {
    width: `${SIZE.width}px`,
    height: `${SIZE.height}px`,
    backgroundImage: `url(${pictureUrl(props.digest)})`,
    backgroundSize: `${page.value.width * scale}px auto`,
    backgroundPosition: `${-clamp(left, page.value.width * scale - SIZE.width)}px ${-clamp(top, page.value.height * scale - SIZE.height)}px`,
  }
})
</script>

<template>
  <span
    class="block shrink-0 rounded-sm border border-line"
    :style="style"
    data-role="thumbnail"
    aria-hidden="true"
  />
</template>
