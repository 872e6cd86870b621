<script setup lang="ts">
import type { Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import { exact } from '@/shared/times'

/** Which play stands on a side. */
defineProps<{ side: Shapes['SideOut']; label: string }>()
</script>

<template>
  <section class="panel min-w-0 px-3 py-2 text-sm" :aria-label="label">
    <p class="flex items-center gap-2">
      <span class="text-xs text-soft">{{ label }}</span>
      <RouterLink class="truncate font-medium underline" :to="`/runs/${side.run}?row=${side.cast}`"
        >{{ side.test_name }}, {{ side.kind === 'try' ? 'try' : 'run' }} {{ side.run }}</RouterLink
      >
      <Outcome :outcome="side.outcome" class="ml-auto shrink-0" />
    </p>
    <slot />
    <p class="mt-1 flex flex-wrap gap-x-4 text-xs text-soft">
      <span v-if="side.number">row {{ side.number }}</span>
      <span class="max-w-96 truncate">{{ Object.values(side.values).join(' · ') }}</span>
      <span>{{ side.browser }}</span>
      <span>{{ side.environment }}</span>
      <span v-if="side.release">release {{ side.release }}</span>
      <span>version {{ side.version }}</span>
      <span>{{ exact(side.at) }}</span>
    </p>
  </section>
</template>
