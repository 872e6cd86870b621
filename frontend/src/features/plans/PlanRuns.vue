<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import ListTable from '@/shared/ListTable.vue'
import Outcome from '@/shared/Outcome.vue'
import { usePaged } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { ago, between, exact, seconds } from '@/shared/times'

import { tally } from './words'

/** The runs of a plan, newest first. */
const props = defineProps<{ plan: number }>()
const COLUMNS: Column[] = [
  { id: 'number', title: 'Run' },
  { id: 'outcome', title: 'Verdict' },
  { id: 'came', title: 'What came of it', class: 'text-soft' },
  { id: 'by', title: 'Started by', class: 'text-soft' },
  { id: 'time', title: 'Time', class: 'whitespace-nowrap text-soft' },
  { id: 'when', title: 'When', class: 'whitespace-nowrap text-soft' },
]
const runs = usePaged(
  ['plans', 'runs', computed(() => props.plan)],
  (after) => ask(api.GET('/api/plan-runs', { params: { query: { plan: props.plan, after } } })),
  (page) => page.runs,
)
</script>

<template>
  <section v-if="runs.rows.value.length">
    <h2 class="mb-2 text-sm font-semibold">Runs of it</h2>
    <ListTable :list="runs" :columns="COLUMNS">
      <template #number="{ row }">
        <RouterLink class="font-medium hover:underline" :to="`/plan-runs/${row.id}`">{{ row.id }}</RouterLink>
        <span v-if="row.again_of" class="chip ml-2">failed of {{ row.again_of }}</span>
      </template>
      <template #outcome="{ row }"><Outcome :outcome="row.state" /></template>
      <template #came="{ row }">{{ tally(row.casts) }}</template>
      <template #by="{ row }">{{ row.author || row.cause }}</template>
      <template #time="{ row }">{{ seconds(between(row.started_at, row.ended_at)) }}</template>
      <template #when="{ row }"
        ><span :title="exact(row.queued_at)">{{ ago(row.queued_at) }}</span></template
      >
    </ListTable>
  </section>
</template>
