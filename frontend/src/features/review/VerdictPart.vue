<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'

import Signs from './Signs.vue'
import { meaning, percent } from './kinds'

/** Whose fault one failed sentence is, with what that is made of. */
const props = defineProps<{ result: number }>()
const query = useQuery({
  queryKey: computed(() => ['verdict', props.result]),
  queryFn: () => ask(api.GET('/api/results/{id}/verdict', { params: { path: { id: props.result } } })),
})
const verdict = computed(() => query.data.value)
const kind = computed(() => verdict.value?.said?.kind ?? verdict.value?.verdict ?? '')
const share = computed(() => Math.max(0, ...Object.values(verdict.value?.shares ?? {})))
/** Who said it, or how likely it is. */
const told = computed(() => {
  if (verdict.value?.said) return ` says ${verdict.value.said.author}`
  return kind.value === 'not clear' ? '' : ` ${percent(share.value)}`
})
</script>

<template>
  <details v-if="verdict" class="panel px-3 py-2 text-sm" data-role="verdict">
    <summary class="cursor-pointer">
      <b class="font-semibold">{{ kind }}</b><span class="text-soft">{{ told }}</span
      >: {{ meaning(kind) }}
    </summary>
    <Signs :verdict="verdict" class="mt-2" />
    <p v-if="verdict.wants" class="mt-2 text-soft">{{ verdict.wants }}</p>
  </details>
</template>
