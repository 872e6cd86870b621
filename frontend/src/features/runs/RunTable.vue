<script setup lang="ts">
import type { Shapes } from '@/api/client'
import ListTable from '@/shared/ListTable.vue'
import Outcome from '@/shared/Outcome.vue'
import type { Column, Paged } from '@/shared/lists'
import { ago, between, exact, seconds } from '@/shared/times'

defineProps<{ rows?: Shapes['RunBrief'][]; list?: Paged<Shapes['RunBrief']> }>()

const COLUMNS: Column[] = [
  { id: 'number', title: 'Run', class: 'text-soft' },
  { id: 'test', title: 'Test', class: 'max-w-72' },
  { id: 'outcome', title: 'Outcome' },
  { id: 'rows', title: 'Rows', class: 'text-soft' },
  { id: 'by', title: 'By', class: 'whitespace-nowrap text-soft' },
  { id: 'time', title: 'Time', class: 'whitespace-nowrap text-soft' },
  { id: 'when', title: 'When', class: 'whitespace-nowrap text-soft' },
]
const ORDER = ['passed', 'unsteady', 'failed', 'skipped', 'interrupted', 'cancelled', 'running', 'waiting']
function tally(rows: Record<string, number>): string {
  const all = Object.values(rows).reduce((sum, count) => sum + count, 0)
  if (all === 1) return '1 row'
  return ORDER.filter((outcome) => rows[outcome])
    .map((outcome) => `${rows[outcome]} ${outcome}`)
    .join(', ')
}
</script>

<template>
  <ListTable :rows="rows" :list="list" :columns="COLUMNS">
    <template #number="{ row }">{{ row.id }}</template>
    <template #test="{ row }">
      <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/runs/${row.id}`">{{
        row.test_name
      }}</RouterLink>
      <span v-if="row.kind === 'try'" class="chip ml-2">try</span>
      <RouterLink v-if="row.plan_run" class="chip ml-2" :to="`/plan-runs/${row.plan_run}`">plan</RouterLink>
    </template>
    <template #outcome="{ row }"><Outcome :outcome="row.state" /></template>
    <template #rows="{ row }">{{ tally(row.rows) }}</template>
    <template #by="{ row }">{{ row.author || (row.plan_run ? 'a plan' : 'terminal') }}</template>
    <template #time="{ row }">{{ seconds(between(row.started_at, row.ended_at)) }}</template>
    <template #when="{ row }"
      ><span :title="exact(row.queued_at)">{{ ago(row.queued_at) }}</span></template
    >
  </ListTable>
</template>
