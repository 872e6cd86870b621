<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'

/** What a station ended day by day: well, and otherwise. */
const props = defineProps<{ days: Shapes['StationDay'][] }>()
const PARTS = [
  ['passed', 'bg-good'],
  ['unsteady', 'bg-odd'],
  ['failed', 'bg-bad'],
  ['interrupted', 'bg-odd'],
] as const
const sum = (casts: Record<string, number>) => PARTS.reduce((all, [name]) => all + (casts[name] ?? 0), 0)
const most = computed(() => Math.max(1, ...props.days.map((one) => sum(one.casts))))
const told = (one: Shapes['StationDay']) =>
  `${one.day}: ${PARTS.filter(([name]) => one.casts[name])
    .map(([name]) => `${one.casts[name]} ${name}`)
    .join(', ')}`
</script>

<template>
  <p v-if="!days.length" class="text-sm text-soft">Nothing was played here.</p>
  <ul v-else class="flex flex-col gap-1 text-sm">
    <li v-for="one in days" :key="one.day" class="flex items-center gap-2" :title="told(one)">
      <span class="w-24 shrink-0 text-soft">{{ one.day }}</span>
      <span class="flex h-2 min-w-0 flex-1 overflow-hidden rounded-full bg-sunk">
        <span
          v-for="[name, colour] in PARTS"
          :key="name"
          :class="colour"
          :style="{ width: `${(100 * (one.casts[name] ?? 0)) / most}%` }"
        />
      </span>
      <span class="w-40 shrink-0 text-xs text-soft">{{ told(one).replace(`${one.day}: `, '') }}</span>
    </li>
  </ul>
</template>
