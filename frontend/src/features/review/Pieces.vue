<script setup lang="ts">
import type { Shapes } from '@/api/client'

/** A text in pieces: those that the text beside it has not are marked, by line and by colour. */
defineProps<{ pieces: Shapes['PieceOut'][] }>()
</script>

<template>
  <span class="whitespace-pre-wrap"
    ><template v-for="(one, place) in pieces" :key="place"
      ><span v-if="one.same">{{ one.text }}</span
      ><mark v-else class="rounded-sm bg-lit-paper text-ink underline decoration-lit decoration-2">{{
        one.text
      }}</mark></template
    ></span
  >
</template>
