<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'

import type { Plan } from './usePlan'

/** What became of a plan, version by version; each can be brought back. */
const props = defineProps<{ plan: Plan; fixed: boolean }>()
const emit = defineEmits<{ close: [] }>()
const queries = useQueryClient()
const path = computed(() => ({ path: { id: props.plan.id } }))
const query = useQuery({
  queryKey: computed(() => ['plans', 'versions', props.plan.id]),
  queryFn: () => ask(api.GET('/api/plans/{id}/versions', { params: path.value })),
})
const { act: restore } = useAct(
  (number: number) =>
    ask(
      api.POST('/api/plans/{id}/restore', { params: path.value, body: { base: props.plan.version, number } }),
    ),
  {
    stale: [['plans']],
    done: (now, number) => {
      queries.setQueryData(['plans', 'one', now.id], now)
      say(`Version ${number} is the newest now. That is a version too: it can be taken back.`)
      emit('close')
    },
  },
)
</script>

<template>
  <div class="panel">
    <table class="list-table text-sm">
      <thead>
        <tr>
          <th>Version</th>
          <th>What changed</th>
          <th>By</th>
          <th>When</th>
          <th><span class="sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in query.data.value?.versions" :key="one.number">
          <td>{{ one.number }}</td>
          <td>{{ one.summary }}</td>
          <td class="text-soft">{{ one.author }}</td>
          <td class="text-soft" :title="exact(one.at)">{{ ago(one.at) }}</td>
          <td class="text-right">
            <button
              v-if="one.number !== plan.version && !fixed"
              class="button py-0.5"
              @click="restore(one.number)"
            >
              Bring back
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
