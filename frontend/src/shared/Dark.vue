<script setup lang="ts">
import { useId } from 'vue'

import { placed } from './shares'

/** Darkness over a picture, but for some boxes of it; they are shares of the picture. */
defineProps<{ but: number[][] }>()
const id = useId()
</script>

<template>
  <svg class="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
    <defs>
      <mask :id="id">
        <rect width="100%" height="100%" fill="white" />
        <rect v-for="(box, number) in but" :key="number" v-bind="placed(box)" rx="3" fill="black" />
      </mask>
    </defs>
    <rect width="100%" height="100%" fill="rgb(25 18 8 / 0.5)" :mask="`url(#${id})`" />
  </svg>
</template>
