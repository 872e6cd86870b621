<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import ReportButton from '@/features/reports/ReportButton.vue'
import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useBrowserTitles } from '@/api/queries'
import Spotlight from '@/features/review/Spotlight.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { useRouteId } from '@/shared/routeId'
import { vScrolls } from '@/shared/scrolls'
import { ago, exact, seconds } from '@/shared/times'

import CellPanel from './CellPanel.vue'
import Progress from './Progress.vue'
import WhatStationsDo from './WhatStationsDo.vue'
import WhoWasTold from './WhoWasTold.vue'
import { usePlanRun } from './usePlan'
import { over, roughly, share, span, tally, total } from './words'

/** One run of a plan: its matrix as it fills, one verdict, and what went otherwise than before. */
const id = useRouteId()
const router = useRouter()
const query = usePlanRun(id)
const data = computed(() => query.data.value)
const run = computed(() => data.value?.run)
const going = computed(() => ['queued', 'running'].includes(run.value?.state ?? ''))
const now = useNow({ interval: 1000 })
const gone = computed(() => {
  if (!run.value?.started_at) return 0
  const end = run.value.ended_at ? Date.parse(run.value.ended_at) : now.value.getTime()
  return Math.max(0, (end - Date.parse(run.value.started_at)) / 1000)
})

const words = ref('')
const bad = ref(false)
const BAD = ['failed', 'interrupted', 'unsteady', 'cancelled', 'skipped']
const rows = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  return (data.value?.rows ?? []).filter(
    (one) =>
      one.name.toLowerCase().includes(wanted) &&
      (!bad.value || one.cells.some((cell) => BAD.includes(cell.outcome))),
  )
})
const several = computed(() => new Set(data.value?.rows.map((one) => one.environment)).size > 1)
const open = ref<{ row: Shapes['MatrixRow']; browser: string } | null>(null)
const isOpen = (row: Shapes['MatrixRow'], browser: string) =>
  open.value?.row.run === row.run && open.value.browser === browser

const titled = useBrowserTitles()

const ended = (state: string) => (['passed', 'failed'].includes(state) ? state : `was ${state}`)

const path = () => ({ params: { path: { id: id.value } } })
const stale = () => [['plan run', id.value], ['plans']]
const { act: cancel } = useAct(() => ask(api.POST('/api/plan-runs/{id}/cancel', path())), { stale })
const { act: again } = useAct(() => ask(api.POST('/api/plan-runs/{id}/again', path())), {
  stale,
  done: (made) => router.push(`/plan-runs/${made.run.id}`),
})
const failed = computed(() => BAD.slice(0, 2).some((one) => run.value?.casts[one]))
</script>

<template>
  <div class="flex h-full flex-col px-6 py-4">
    <Trouble :error="query.error.value" />
    <template v-if="data && run">
      <div class="mb-2 flex items-center gap-3">
        <h1 class="heading truncate">
          <RouterLink v-if="run.plan_id" :to="`/plans/${run.plan_id}`" class="hover:underline">{{
            run.plan_name
          }}</RouterLink>
          <span v-else>{{ run.plan_name }}</span>
        </h1>
        <Outcome :outcome="run.state" class="text-base" data-role="plan-state" />
        <div class="ml-auto flex shrink-0 gap-2">
          <ReportButton v-if="!going" what="plan run" :of="id" />
        </div>
        <div v-if="mayChange()" class="flex shrink-0 gap-2">
          <button v-if="going" class="button button-bad" data-role="cancel-all" @click="cancel()">
            Cancel all that is left
          </button>
          <button v-else-if="failed && run.plan_id" class="button" data-role="again" @click="again()">
            Play the failed again
          </button>
        </div>
      </div>
      <p class="mb-3 flex flex-wrap gap-x-5 gap-y-1 text-sm text-soft">
        <span>Run {{ id }} of a plan, on record</span>
        <span v-if="run.again_of"
          >what failed in
          <RouterLink class="underline" :to="`/plan-runs/${run.again_of}`"
            >run {{ run.again_of }}</RouterLink
          ></span
        >
        <span>by {{ run.author || run.cause }}</span>
        <span :title="exact(run.queued_at)">{{ ago(run.queued_at) }}</span>
        <span>version {{ data.version }} of the plan</span>
        <span title="The same seed makes up the same values, and gives the same random order"
          >seed {{ data.seed }}</span
        >
        <span v-if="data.deadline && going">to be over by {{ exact(data.deadline) }}</span>
      </p>
      <p v-if="run.message" class="mb-3 rounded-md border border-line bg-sunk px-3 py-2 text-sm">
        {{ run.message }}
      </p>
      <p
        v-if="data.waits_for.length"
        class="mb-3 rounded-md border border-line bg-sunk px-3 py-2 text-sm text-odd"
      >
        No station that is up has {{ data.waits_for.join(' or ') }}: those casts wait for one.
      </p>
      <Progress :casts="run.casts" />
      <p class="mt-1 mb-3 flex flex-wrap gap-x-5 text-sm" data-role="progress">
        <span>{{ over(run.casts) }} of {{ total(run.casts) }} over: {{ tally(run.casts) }}</span>
        <span v-if="gone" class="text-soft">{{ seconds(gone) }}</span>
        <span v-if="going && data.left !== null" class="text-soft">about {{ roughly(data.left) }} left</span>
        <span v-else-if="data.expected" class="text-soft">{{ span(data.expected) }} was expected</span>
      </p>
      <div class="mb-2 flex items-center gap-3 text-sm">
        <input
          v-model="words"
          class="field max-w-56"
          type="search"
          placeholder="Search tests"
          aria-label="Search tests"
        />
        <label class="flex items-center gap-1.5"
          ><input v-model="bad" type="checkbox" /> only what did not plainly pass</label
        >
      </div>
      <div class="flex min-h-0 flex-1 gap-4">
        <div class="flex min-w-0 flex-1 flex-col gap-4 overflow-auto">
          <div v-scrolls class="panel shrink-0 overflow-auto">
            <table class="list-table text-sm" data-role="matrix">
              <thead>
                <tr>
                  <th>Test</th>
                  <th v-if="several">Environment</th>
                  <th v-for="one in data.browsers" :key="one">{{ titled(one) }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="row in rows" :key="row.run" :data-test="row.name">
                  <td class="max-w-80">
                    <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/runs/${row.run}`">{{
                      row.name
                    }}</RouterLink>
                    <span v-if="row.phase !== 'main'" class="chip ml-2">{{ row.phase }} all of it</span>
                  </td>
                  <td v-if="several" class="text-soft">{{ row.environment }}</td>
                  <td v-for="cell in row.cells" :key="cell.browser" :data-browser="cell.browser">
                    <button
                      v-if="cell.outcome"
                      class="rounded px-1.5 py-0.5 text-left hover:bg-sheet"
                      :class="isOpen(row, cell.browser) && 'bg-lit-paper ring-1 ring-lit'"
                      :aria-pressed="isOpen(row, cell.browser)"
                      :title="tally(cell.casts)"
                      @click="open = { row, browser: cell.browser }"
                    >
                      <Outcome :outcome="cell.outcome" />
                      <span v-if="share(cell)" class="ml-1.5 text-xs text-soft">{{ share(cell) }}</span>
                    </button>
                    <span v-else class="text-soft" title="Not part of it">–</span>
                  </td>
                </tr>
              </tbody>
            </table>
            <p v-if="!rows.length" class="p-4 text-center text-sm text-soft">
              {{ data.rows.length ? 'No test fits.' : 'Its runs were freed by the rules of keeping.' }}
            </p>
          </div>
          <Spotlight
            :plan-run="id"
            :failed="(run.casts.failed ?? 0) + (run.casts.interrupted ?? 0)"
            :over="!going"
          />
          <WhatStationsDo v-if="going" :stations="data.stations" />
          <WhoWasTold v-if="!going" :plan-run="id" />
          <section v-if="data.last && !going" class="text-sm" data-role="changes">
            <h2 class="mb-1 font-semibold">
              Beside
              <RouterLink class="underline" :to="`/plan-runs/${data.last.id}`"
                >run {{ data.last.id }}</RouterLink
              >, which {{ ended(data.last.state) }}
            </h2>
            <p v-if="!data.changes.length" class="text-soft">Every test went as it did then.</p>
            <ul v-else class="flex flex-col gap-0.5">
              <li v-for="one in data.changes" :key="one.test + one.browser">
                {{ one.test }} <span class="text-soft">in {{ titled(one.browser) }}:</span>
                {{ one.before || 'not played' }} then, <b>{{ one.now || 'not played' }}</b> now
              </li>
            </ul>
          </section>
        </div>
        <CellPanel
          v-if="open"
          class="w-96 shrink-0"
          :plan-run="id"
          :row="open.row"
          :browser="open.browser"
          :title="titled(open.browser)"
          :going="going"
          @close="open = null"
        />
      </div>
    </template>
  </div>
</template>
