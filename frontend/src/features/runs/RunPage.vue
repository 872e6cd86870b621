<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import ReportButton from '@/features/reports/ReportButton.vue'
import { api, ask, mayChange, session } from '@/api/client'
import { useEarlierResults, useResults, useRun } from '@/api/queries'
import RaiseDefect from '@/features/defects/RaiseDefect.vue'
import Comments from '@/features/comments/Comments.vue'
import Spotlight from '@/features/review/Spotlight.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { ago, between, exact, seconds } from '@/shared/times'
import { useRouteId } from '@/shared/routeId'
import { useWalk } from '@/shared/walking'

import ResultDetail from './ResultDetail.vue'
import LiveRow from './LiveRow.vue'
import RunPages from './RunPages.vue'
import { vScrolls } from '@/shared/scrolls'

const route = useRoute()
const id = useRouteId()
const run = useRun(id)
const rowId = ref(Number(route.query.row) || 0)
const resultId = ref(Number(route.query.result) || 0)
const filter = ref('')
const raising = ref(false)
const paging = ref(false)

const rows = computed(() => run.data.value?.casts ?? [])
const row = computed(() => rows.value.find((one) => one.id === rowId.value))
const results = useResults(rowId)
/** Which of the times that the row was played is looked at, 0 for the last one. */
const taking = ref(0)
const earlier = useEarlierResults(rowId, taking)
watch(rowId, () => (taking.value = 0))
/** What is to be seen: the chosen row while it runs, else one that does. */
const live = computed(() => [row.value, ...rows.value].find((one) => one?.outcome === 'running'))
const several = computed(() => new Set(rows.value.map((one) => one.browser)).size > 1)
const steps = computed(() => (taking.value ? earlier : results).data.value?.results ?? [])
const shown = computed(() => steps.value.filter((step) => !filter.value || step.outcome === filter.value))
const result = computed(() => shown.value.find((step) => step.id === resultId.value) ?? null)
const defect = computed(() => run.data.value?.defects.find((one) => one.result_id === result.value?.id))
/** Changes since the baseline that may have made the chosen sentence fail in this row. */
const suspects = computed(
  () =>
    run.data.value?.suspects.find(
      (one) => one.step === result.value?.step_id && one.casts.includes(rowId.value),
    )?.changes ?? [],
)
const ranTest = computed(() => {
  const { test_id, test_name } = run.data.value?.run ?? {}
  return test_id ? { id: test_id, name: test_name! } : null
})
const ordinal = (n: number) => `the ${n}${['st', 'nd', 'rd'][n - 1] ?? 'th'}`
const going = computed(() => ['queued', 'running'].includes(run.data.value?.run.state ?? ''))
const outcomes = computed(() => [...new Set(steps.value.map((step) => step.outcome))])

/** Open on what a person wants to see first: the first row that failed, else the first. */
watch(
  rows,
  (now) => {
    if (now.some((one) => one.id === rowId.value)) return
    rowId.value = (now.find((one) => one.outcome === 'failed') ?? now[0])?.id ?? 0
  },
  { immediate: true },
)
watch(
  [steps, filter],
  ([now]) => {
    if (shown.value.some((step) => step.id === resultId.value)) return
    resultId.value = (now.find((step) => step.outcome === 'failed') ?? shown.value[0])?.id ?? 0
  },
  { immediate: true }, // the results may be known already, from the workbench
)

const bad = computed(() => rows.value.filter((one) => one.failed_at).length)
function openFailure(failure: { cast: number; result: number }) {
  open(failure.cast)
  paging.value = false
  resultId.value = failure.result
}

function open(row: number) {
  rowId.value = row
  resultId.value = 0
  filter.value = ''
}

useWalk(
  () => shown.value.map((step) => step.id),
  () => resultId.value,
  (key) => (resultId.value = key),
)

const said = useQuery({
  queryKey: computed(() => ['comments', 'run', id.value]),
  queryFn: () => ask(api.GET('/api/comments', { params: { query: { place: 'run', key: id.value } } })),
})
const remarks = computed(() => said.data.value?.comments.length ?? 0)
const looker = computed(() => said.data.value?.comments.findLast((one) => one.looked)?.author)

const pinning = useAct(
  (pinned: boolean) =>
    ask(api.PATCH('/api/runs/{id}', { params: { path: { id: id.value } }, body: { pinned } })),
  { stale: () => [['run', id.value]] },
)
const pin = () => pinning.act(!run.data.value!.pinned)
const { act: cancel } = useAct(() =>
  ask(api.POST('/api/runs/{id}/cancel', { params: { path: { id: id.value } } })),
)
</script>

<template>
  <div class="flex h-full flex-col px-6 py-4">
    <Trouble :error="run.error.value" />
    <template v-if="run.data.value">
      <div class="mb-3 flex items-center gap-3">
        <h1 class="heading truncate">
          <RouterLink
            v-if="run.data.value.run.test_id"
            :to="`/tests/${run.data.value.run.test_id}`"
            class="hover:underline"
            >{{ run.data.value.run.test_name }}</RouterLink
          >
          <span v-else>{{ run.data.value.run.test_name }}</span>
        </h1>
        <Outcome :outcome="run.data.value.run.state" class="text-base" data-role="run-state" />
        <div class="ml-auto flex shrink-0 gap-2">
          <button v-if="going && mayChange()" class="button button-bad" @click="cancel()">
            Cancel the run
          </button>
          <button
            v-if="!going && mayChange()"
            class="button"
            :aria-pressed="run.data.value.pinned"
            title="Rules of keeping never free a run that is kept for good"
            @click="pin"
          >
            {{ run.data.value.pinned ? 'Kept for good' : 'Keep for good' }}
          </button>
          <RouterLink
            v-if="rowId"
            class="button"
            :to="`/beside/${rowId}`"
            title="Hold the chosen row against another play of it"
            >Side by side</RouterLink
          >
          <button class="button" :aria-pressed="paging" @click="paging = !paging">
            {{ paging ? 'Results' : 'Saved pages' }}
          </button>
          <ReportButton what="run" :of="id" />
        </div>
      </div>
      <p class="mb-3 flex flex-wrap gap-x-5 gap-y-1 text-sm text-soft">
        <span>{{ run.data.value.run.kind === 'try' ? 'Try' : 'Run' }} {{ id }}</span>
        <RouterLink
          v-if="run.data.value.run.plan_run"
          class="underline"
          :to="`/plan-runs/${run.data.value.run.plan_run}`"
          >part of a plan's run</RouterLink
        >
        <span>{{ run.data.value.run.environment }} ({{ run.data.value.address }})</span>
        <span v-if="run.data.value.run.release">release {{ run.data.value.run.release }}</span>
        <span v-if="run.data.value.run.browser">{{ run.data.value.run.browser }}</span>
        <span :title="exact(run.data.value.run.queued_at)">{{ ago(run.data.value.run.queued_at) }}</span>
        <span>{{ seconds(between(run.data.value.run.started_at, run.data.value.run.ended_at)) }}</span>
        <span
          v-if="run.data.value.seed"
          title="Made-up values come from it: the same seed gives the same ones"
          >seed {{ run.data.value.seed }}</span
        >
        <span :title="run.data.value.baseline ? `The baseline is version ${run.data.value.baseline}` : ''"
          >version {{ run.data.value.version
          }}{{ run.data.value.version === run.data.value.baseline ? ' (baseline)' : '' }}</span
        >
        <span>by {{ run.data.value.run.author || (run.data.value.run.plan_run ? 'a plan' : 'the terminal') }}</span>
      </p>
      <p
        v-if="run.data.value.waits_for.length"
        class="mb-3 rounded-md border border-line bg-sunk px-3 py-2 text-sm text-odd"
        data-role="waits-for"
      >
        No station that is up has {{ run.data.value.waits_for.join(' or ') }}: its rows wait for one.
      </p>
      <p v-if="run.data.value.message" class="mb-3 rounded-md border border-line bg-sunk px-3 py-2 text-sm">
        {{ run.data.value.message }}
      </p>
      <div
        v-if="run.data.value.differs.length"
        v-scrolls
        class="mb-3 max-h-40 overflow-auto rounded-md border border-line bg-sunk px-3 py-2 text-sm"
        data-role="differs"
      >
        <p class="font-semibold text-odd">Green, but not as recorded.</p>
        <p class="mb-1 text-soft">
          This was the first green run since the recording. These sentences left another page than they did
          then; see whether the test still does what was done.
        </p>
        <div v-for="one in run.data.value.differs" :key="one.step">
          <RouterLink
            :to="`/tests/${run.data.value.run.test_id}?sentence=${one.place}`"
            class="font-story hover:underline"
            >{{ one.place }} · {{ one.sentence }}</RouterLink
          >
          <ul class="ml-4 list-disc text-soft">
            <li v-for="told in one.told.slice(0, 6)" :key="told.said" class="wrap-anywhere">
              {{ told.said }}
            </li>
          </ul>
        </div>
      </div>
      <details class="mb-3 text-sm" data-role="remarks">
        <summary class="cursor-pointer text-soft">
          {{ remarks ? `${remarks} ${remarks === 1 ? 'comment' : 'comments'}` : 'Comments'
          }}<span v-if="looker">, looked at by {{ looker }}</span>
        </summary>
        <Comments class="panel mt-1 max-h-72 overflow-auto p-3" place="run" :of="id" looks quiet />
      </details>
      <Spotlight :run="id" :failed="bad" :over="!going" @open="openFailure" />
      <RunPages v-if="paging" :run="id" :test="ranTest" class="flex-1" />
      <div v-else class="grid min-h-0 flex-1 grid-cols-[17rem_22rem_1fr] gap-4">
        <section class="flex min-h-0 flex-col" aria-label="Rows">
          <h2 class="mb-1 text-sm font-semibold">
            {{ rows.length === 1 ? 'One row' : `${rows.length} rows` }}
          </h2>
          <ol class="panel min-h-0 flex-1 overflow-auto">
            <li v-for="one in rows" :key="one.id">
              <button
                class="w-full border-b border-line px-3 py-2 text-left hover:bg-sunk"
                :class="one.id === rowId && 'bg-sunk font-medium'"
                :aria-current="one.id === rowId"
                data-role="row"
                @click="open(one.id)"
              >
                <span class="flex items-center gap-2">
                  <Outcome :outcome="one.outcome" />
                  <span class="truncate text-soft"
                    >{{ one.number ? `row ${one.number}` : '' }}{{ several ? ` ${one.browser}` : '' }}</span
                  >
                  <span v-if="one.hand" class="chip" :title="`${one.hand} took it in hand`">in hand</span>
                  <span v-if="one.takings > 1" class="chip">taken {{ one.takings }} times</span>
                  <span class="ml-auto text-xs text-soft">{{ seconds(one.seconds) }}</span>
                </span>
                <span class="mt-0.5 block truncate text-xs font-normal text-soft">
                  {{ one.current || run.data.value.columns.map((column) => one.values[column]).join(' · ') }}
                </span>
                <span
                  v-for="name in run.data.value.kept.filter((kept) => kept in one.kept)"
                  :key="name"
                  class="block truncate text-xs font-normal"
                  data-role="kept"
                  :title="one.kept[name]"
                  ><span class="text-soft">{{ name }}</span> {{ one.kept[name] }}</span
                >
              </button>
            </li>
          </ol>
        </section>
        <section class="flex min-h-0 flex-col" aria-label="Steps">
          <div class="mb-1 flex items-center gap-2">
            <h2 class="text-sm font-semibold">Sentences</h2>
            <select
              v-if="row && row.takings > 1"
              v-model="taking"
              class="field w-auto py-0 text-xs"
              aria-label="Which time it was played"
              title="It was played more than once; all that came of it is kept"
            >
              <option v-for="n in row.takings - 1" :key="n" :value="n">{{ ordinal(n) }} time</option>
              <option :value="0">the last time</option>
            </select>
            <label class="ml-auto text-xs text-soft">
              show
              <select v-model="filter" class="field ml-1 w-auto py-0 text-xs" aria-label="Show outcomes">
                <option value="">all</option>
                <option v-for="one in outcomes" :key="one">{{ one }}</option>
              </select>
            </label>
          </div>
          <ol class="panel min-h-0 flex-1 overflow-auto py-1">
            <li v-for="step in shown" :key="step.id">
              <button
                class="flex w-full gap-2 px-3 py-1.5 text-left hover:bg-sunk"
                :class="step.id === resultId && 'bg-sunk'"
                :aria-current="step.id === resultId"
                data-role="step"
                @click="resultId = step.id"
              >
                <Outcome :outcome="step.outcome" bare class="mt-1.5" />
                <span
                  class="font-story wrap-anywhere"
                  :class="[
                    step.outcome === 'skipped' && 'text-soft',
                    step.within.length && 'border-l border-line pl-2',
                  ]"
                >
                  <span v-if="step.within.length" class="block font-sans text-xs text-soft">{{
                    step.within.join(' › ')
                  }}</span>
                  <span v-if="step.title" class="block font-sans text-sm font-semibold">{{
                    step.title
                  }}</span>
                  {{ step.sentence }}
                  <span v-if="step.contrary" class="block font-sans text-xs text-odd" data-role="contrary">{{
                    step.contrary
                  }}</span>
                  <span v-if="step.attempts > 1" class="chip font-sans">try {{ step.attempts }}</span>
                </span>
                <span class="ml-auto shrink-0 text-xs text-soft">{{
                  step.outcome === 'skipped' ? '' : seconds(step.used)
                }}</span>
              </button>
            </li>
            <li v-if="row?.outcome === 'running' && row.current" class="flex gap-2 px-3 py-1.5 text-soft">
              <Outcome outcome="running" bare class="mt-1.5" />
              <span class="font-story">{{ row.current }}</span>
            </li>
            <li v-if="steps.length === 0 && row?.outcome === 'waiting'" class="px-3 py-2 text-soft">
              Not begun yet.
            </li>
            <li
              v-if="row?.message && (!row.failed_at || row.hand)"
              class="px-3 py-2 text-soft wrap-anywhere"
              data-role="cast-message"
            >
              {{ row.message }}
            </li>
            <li v-if="steps.length === 0 && row?.outcome === 'skipped'" class="px-3 py-2 text-soft">
              Did not run.
            </li>
          </ol>
        </section>
        <section v-scrolls class="min-h-0 overflow-auto" aria-label="Detail">
          <LiveRow
            v-if="going && live"
            :key="live.id"
            :cast="live.id"
            :mine="run.data.value.run.author === session.me?.account.name"
            class="mb-3"
            @taken="$router.push(`/tests/${run.data.value.run.test_id}?run=${id}`)"
          />
          <ResultDetail
            v-if="result"
            :result="result"
            :defect="defect"
            :suspects="suspects"
            @raise="raising = true"
          />
        </section>
      </div>
      <RaiseDefect v-if="result && raising" v-model:open="raising" :result-id="result.id" />
    </template>
  </div>
</template>
