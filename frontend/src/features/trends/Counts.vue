<script setup lang="ts">
import { computed } from 'vue'

import { OUTCOMES } from './colours'

/** The same as the bars, in figures. */
const props = defineProps<{ bars: { name: string; counts: Record<string, number> }[]; head: string }>()
const there = computed(() => OUTCOMES.filter(({ name }) => props.bars.some((bar) => bar.counts[name])))
</script>

<template>
  <table class="list-table text-sm">
    <thead>
      <tr>
        <th>{{ head }}</th>
        <th v-for="one in there" :key="one.name" class="text-right">{{ one.name }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="bar in bars" :key="bar.name">
        <td>{{ bar.name || 'none' }}</td>
        <td v-for="one in there" :key="one.name" class="text-right">{{ bar.counts[one.name] ?? 0 }}</td>
      </tr>
    </tbody>
  </table>
</template>
