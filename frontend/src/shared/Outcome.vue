<script setup lang="ts">
import { computed } from 'vue'

import { look } from './outcomes'

const props = defineProps<{ outcome: string; bare?: boolean }>()
const shown = computed(() => look(props.outcome))
</script>

<template>
  <span class="inline-flex items-center gap-1.5 whitespace-nowrap" :class="shown.colour">
    <svg viewBox="0 0 12 12" class="size-3 shrink-0" aria-hidden="true">
      <path
        :d="shown.shape"
        :fill="shown.hollow ? 'none' : 'currentColor'"
        stroke="currentColor"
        stroke-width="1.6"
      />
    </svg>
    <span :class="bare ? 'sr-only' : 'font-medium'">{{ outcome }}</span>
  </span>
</template>
