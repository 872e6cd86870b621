<script setup lang="ts">
import { percent } from '@/features/review/kinds'

/** A share in large figures with a bar; what it is of stands behind it. */
defineProps<{ share: number | null | undefined }>()
</script>

<template>
  <div class="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm" data-role="share">
    <b class="font-story text-2xl">{{ typeof share === 'number' ? percent(share) : '–' }}</b>
    <span class="h-2 w-40 overflow-hidden rounded-full border border-line bg-sunk" aria-hidden="true"
      ><span class="block h-full bg-lit" :style="{ width: `${(share ?? 0) * 100}%` }"
    /></span>
    <span class="text-soft"><slot /></span>
  </div>
</template>
