<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'

import SentLog from './SentLog.vue'

/** What was sent to a webhook. */
const props = defineProps<{ hook: number }>()
const query = useQuery({
  queryKey: computed(() => ['hooks', 'log', props.hook]),
  queryFn: () => ask(api.GET('/api/hooks/{id}/deliveries', { params: { path: { id: props.hook } } })),
  refetchInterval: 3000,
})
const messages = computed(() =>
  (query.data.value?.deliveries ?? []).map((one) => ({ ...one, head: one.event })),
)
const { act: again } = useAct(
  (id: number) => ask(api.POST('/api/deliveries/{id}/again', { params: { path: { id } } })),
  { stale: [['hooks']] },
)
</script>

<template>
  <div class="mt-2">
    <Trouble :error="query.error.value" />
    <SentLog :messages="messages" @again="again($event)" />
  </div>
</template>
