<script setup lang="ts">
import { computed } from 'vue'

import type { Run } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import { seconds } from '@/shared/times'

/** A run under way or just over, row by row. */
const props = defineProps<{ run: Run; row: number }>()
defineEmits<{ choose: [row: number] }>()
const done = computed(
  () => props.run.casts.filter((row) => !['waiting', 'running'].includes(row.outcome)).length,
)
/** How the bar is made up: what failed is seen in it. */
const SHARES = [
  ['passed', 'bg-good'],
  ['unsteady', 'bg-odd'],
  ['failed', 'bg-bad'],
  ['other', 'bg-strong-line'],
] as const
const count = (outcome: (typeof SHARES)[number][0]): number =>
  outcome === 'other'
    ? done.value - count('passed') - count('unsteady') - count('failed')
    : props.run.casts.filter((row) => row.outcome === outcome).length
/** Whether rows were played in more than one browser, so that it has to be told which. */
const several = computed(() => new Set(props.run.casts.map((one) => one.browser)).size > 1)
</script>

<template>
  <div class="flex h-full min-h-0 flex-col">
    <div class="flex items-center gap-3 px-3 py-1.5 text-sm">
      <Outcome :outcome="run.run.state" data-role="run-state" />
      <span class="text-soft"
        >{{ done }} of {{ run.casts.length }} {{ run.casts.length === 1 ? 'row' : 'rows' }}</span
      >
      <div
        class="flex h-1.5 w-40 overflow-hidden rounded-full bg-sunk"
        role="progressbar"
        aria-label="Rows done"
        aria-valuemin="0"
        :aria-valuemax="run.casts.length"
        :aria-valuenow="done"
      >
        <span
          v-for="[outcome, colour] in SHARES"
          :key="outcome"
          :class="colour"
          :style="{ width: `${(100 * count(outcome)) / Math.max(run.casts.length, 1)}%` }"
          :data-outcome="outcome"
        />
      </div>
      <span v-if="run.differs.length" class="text-odd" data-role="differs">Green, but not as recorded</span>
      <span v-if="run.waits_for.length" class="truncate text-odd" data-role="waits-for"
        >No station that is up has {{ run.waits_for.join(' or ') }}: its rows wait for one.</span
      >
      <span v-if="run.message" class="truncate text-soft">{{ run.message }}</span>
      <RouterLink :to="`/runs/${run.run.id}`" class="button ml-auto"
        >Open {{ run.run.kind }} {{ run.run.id }}</RouterLink
      >
    </div>
    <ol class="min-h-0 flex-1 overflow-auto border-t border-line">
      <li v-for="one in run.casts" :key="one.id">
        <button
          class="flex w-full items-center gap-3 px-3 py-1 text-left text-sm hover:bg-sunk"
          :class="one.id === row && 'bg-sunk'"
          @click="$emit('choose', one.id)"
        >
          <Outcome :outcome="one.outcome" class="w-24" />
          <span class="w-14 shrink-0 text-soft">{{ one.number ? `row ${one.number}` : '' }}</span>
          <span v-if="several" class="w-20 shrink-0 truncate text-soft">{{ one.browser }}</span>
          <span class="min-w-0 flex-1 truncate">
            <template v-if="one.current">{{ one.current }}</template>
            <span v-else-if="one.message" class="text-bad">{{ one.message }}</span>
            <span v-else class="text-soft">{{
              run.columns.map((column) => one.values[column]).join(' · ')
            }}</span>
          </span>
          <span class="shrink-0 text-xs text-soft"
            >{{ one.outcome === 'passed' ? run.steps : one.steps_done }} of {{ run.steps }}</span
          >
          <span class="w-14 shrink-0 text-right text-xs text-soft">{{ seconds(one.seconds) }}</span>
        </button>
      </li>
    </ol>
  </div>
</template>
