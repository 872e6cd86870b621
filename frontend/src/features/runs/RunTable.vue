<script setup lang="ts">
import type { Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import { ago, between, exact, seconds } from '@/shared/times'

defineProps<{ runs: Shapes['RunBrief'][] }>()

const ORDER = ['passed', 'failed', 'skipped', 'interrupted', 'cancelled', 'running', 'waiting']
function tally(rows: Record<string, number>): string {
  const all = Object.values(rows).reduce((sum, count) => sum + count, 0)
  if (all === 1) return '1 row'
  return ORDER.filter((outcome) => rows[outcome])
    .map((outcome) => `${rows[outcome]} ${outcome}`)
    .join(', ')
}
</script>

<template>
  <div class="panel overflow-x-auto">
    <table class="list-table">
      <thead>
        <tr>
          <th>Run</th>
          <th>Test</th>
          <th>Outcome</th>
          <th>Rows</th>
          <th>By</th>
          <th>Time</th>
          <th>When</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="run in runs" :key="run.id">
          <td class="text-soft">{{ run.id }}</td>
          <td class="max-w-72">
            <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/runs/${run.id}`">{{
              run.test_name
            }}</RouterLink>
            <span v-if="run.kind === 'try'" class="chip ml-2">try</span>
          </td>
          <td><Outcome :outcome="run.state" /></td>
          <td class="text-soft">{{ tally(run.rows) }}</td>
          <td class="whitespace-nowrap text-soft">{{ run.author || 'terminal' }}</td>
          <td class="whitespace-nowrap text-soft">{{ seconds(between(run.started_at, run.ended_at)) }}</td>
          <td class="whitespace-nowrap text-soft" :title="exact(run.queued_at)">{{ ago(run.queued_at) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
