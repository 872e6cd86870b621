<script setup lang="ts">
import type { Shapes } from '@/api/client'

/** What a verdict is made of: each reason with the kind that it speaks for, or against. */
defineProps<{ verdict: Shapes['VerdictOut'] }>()
</script>

<template>
  <ul class="flex flex-col gap-1 text-sm" aria-label="Reasons" data-role="signs">
    <li v-for="(one, place) in verdict.signs" :key="place" class="flex gap-3">
      <span class="w-28 shrink-0 text-soft"
        >{{ one.weight < 0 ? 'not ' : '' }}{{ one.kind }}
        <span :title="`Weight ${one.weight.toFixed(1)}`">{{
          Math.abs(one.weight) >= 2.5 ? '●●●' : Math.abs(one.weight) >= 1.2 ? '●●' : '●'
        }}</span></span
      >
      <span class="min-w-0 wrap-anywhere">{{ one.told }}</span>
    </li>
    <li v-if="!verdict.signs.length" class="text-soft">Nothing speaks for any kind.</li>
  </ul>
</template>
