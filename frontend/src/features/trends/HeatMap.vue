<script setup lang="ts">
import type { Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import { exact } from '@/shared/times'

/** Tests and their last runs, oldest first; each leads to its run. */
defineProps<{ tests: Shapes['TestTrend'][] }>()
const titleOf = (run: Shapes['CellOut']) => {
  const counts = Object.entries(run.counts).map(([outcome, count]) => `${count} ${outcome}`)
  return `Run ${run.run}, ${exact(run.at)}: ${counts.join(', ')}${run.release ? `, release ${run.release}` : ''}`
}
</script>

<template>
  <div class="overflow-x-auto" tabindex="0" aria-label="Tests and their runs">
    <table class="text-sm" data-role="heat-map">
      <tbody>
        <tr v-for="test in tests" :key="test.test">
          <th class="max-w-64 min-w-40 truncate pr-3 text-left font-normal" :title="test.name">
            <RouterLink class="hover:underline" :to="`/tests/${test.test}`">{{ test.name }}</RouterLink>
          </th>
          <td>
            <span class="flex justify-end gap-px py-px">
              <RouterLink
                v-for="run in test.runs"
                :key="run.run"
                class="cell flex size-5 items-center justify-center rounded-sm border border-line"
                :class="`cell-${run.outcome}`"
                :to="`/runs/${run.run}`"
                :title="titleOf(run)"
                ><Outcome :outcome="run.outcome" bare
              /></RouterLink>
            </span>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.cell-failed {
  background: var(--bad-paper);
}
.cell-unsteady {
  background: var(--sunk);
}
.cell:hover,
.cell:focus-visible {
  border-color: var(--ink);
}
</style>
