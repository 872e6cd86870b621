<script setup lang="ts">
import { computed } from 'vue'

import { ApiProblem } from '@/api/client'

const props = defineProps<{ error: unknown }>()
const hint = computed(() => (props.error instanceof ApiProblem ? props.error.hint : ''))
const message = computed(() => (props.error as Error)?.message ?? '')
</script>

<template>
  <div
    v-if="error"
    role="alert"
    class="rounded-md border border-bad bg-bad-paper px-3 py-2 text-sm wrap-anywhere"
  >
    {{ message }} <span v-if="hint" class="text-soft">{{ hint }}</span>
  </div>
</template>
