<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import ReportButton from '@/features/reports/ReportButton.vue'
import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'
import { ago } from '@/shared/times'
import { here } from '@/shared/zones'

import Counts from './Counts.vue'
import Days from './Days.vue'
import HeatMap from './HeatMap.vue'
import Steadiness from './Steadiness.vue'

/** What the runs on record say over time. Tries do not count. */
const days = ref(60)
const query = useQuery({
  queryKey: computed(() => ['trends', days.value]),
  queryFn: () => ask(api.GET('/api/trends', { params: { query: { days: days.value, zone: here } } })),
  placeholderData: (before) => before,
})
const told = computed(() => query.data.value)
type Test = Shapes['TestTrend']

const PARTS = [
  { name: 'day', head: 'Day' },
  { name: 'plan', head: 'Plan' },
  { name: 'browser', head: 'Browser' },
  { name: 'release', head: 'Release' },
  { name: 'test', head: 'Test' },
] as const
const part = ref<(typeof PARTS)[number]['name']>('day')
const figures = ref(false)
const head = computed(() => PARTS.find((one) => one.name === part.value)!.head)
const bars = computed(() => {
  const found = told.value
  if (!found) return []
  if (part.value === 'day') return found.days.map((one) => ({ name: one.day, counts: one.counts }))
  if (part.value === 'test')
    return found.tests.map((one) => ({
      name: one.name,
      counts: one.runs.reduce<Record<string, number>>((sum, run) => {
        for (const [outcome, count] of Object.entries(run.counts)) sum[outcome] = (sum[outcome] ?? 0) + count
        return sum
      }, {}),
    }))
  const split = { plan: found.plans, browser: found.browsers, release: found.releases }[part.value]
  return split.map((one) => ({ name: one.name || 'none', counts: one.counts }))
})

const standing = (which: (test: Test) => boolean) => (told.value?.tests ?? []).filter(which)
const GROUPS = [
  {
    title: 'New failures',
    hint: 'passed before, failed last',
    which: (t: Test) => t.standing === 'new' && !t.known,
  },
  {
    title: 'Still failing',
    hint: 'failed more than once in a row',
    which: (t: Test) => t.standing === 'failing' && !t.known,
  },
  { title: 'Known failures', hint: 'an open defect is known for them', which: (t: Test) => t.known > 0 },
  { title: 'Fixed', hint: 'failed before, passed last', which: (t: Test) => t.standing === 'fixed' },
]
const groups = computed(() => GROUPS.map((one) => ({ ...one, tests: standing(one.which) })))
const shaky = computed(() =>
  standing((test) => test.unsteady.times > 0).sort((a, b) => b.unsteady.low - a.unsteady.low),
)
const last = (test: Test) => test.runs.at(-1)!
</script>

<template>
  <div class="page">
    <div class="mb-4 flex flex-wrap items-center gap-3">
      <h1 class="heading">Trends</h1>
      <RouterLink class="ml-auto text-sm underline" to="/requirements">Requirements</RouterLink>
      <ReportButton v-if="told?.days.length" what="trends" :days="days" />
      <label class="text-sm text-soft"
        >the last
        <select v-model="days" class="field ml-1 w-auto" aria-label="How many days">
          <option v-for="one in [7, 30, 60, 180, 365]" :key="one" :value="one">{{ one }} days</option>
        </select>
      </label>
    </div>
    <Trouble :error="query.error.value" />
    <Empty v-if="told && !told.days.length" title="Nothing was run in these days">
      Runs on record, by hand, by plans and from the terminal, are shown here over time; tries are not.
    </Empty>
    <template v-else-if="told">
      <p v-if="told.left_out" class="mb-2 text-sm text-odd">
        So many rows were played that only the newest are shown here.
      </p>
      <section class="panel mb-5 p-4" aria-label="Outcomes">
        <div class="mb-2 flex flex-wrap items-center gap-2 text-sm">
          <h2 class="font-semibold">Rows by</h2>
          <button
            v-for="one in PARTS"
            :key="one.name"
            class="chip"
            :class="part === one.name && 'border-ink font-semibold'"
            :aria-pressed="part === one.name"
            @click="part = one.name"
          >
            {{ one.name }}
          </button>
          <label class="ml-auto flex items-center gap-1.5 text-soft"
            ><input v-model="figures" type="checkbox" /> in figures</label
          >
        </div>
        <div v-if="figures" class="max-h-72 overflow-auto" tabindex="0" aria-label="In figures">
          <Counts :bars="bars" :head="head" />
        </div>
        <Days v-else :bars="bars" :label="`How many rows ended how, by ${part}`" />
      </section>
      <div class="mb-5 grid gap-4 md:grid-cols-2 xl:grid-cols-4">
        <section
          v-for="group in groups"
          :key="group.title"
          class="panel p-3 text-sm"
          :aria-label="group.title"
        >
          <h2 class="font-semibold">
            {{ group.title }} <span class="font-normal text-soft">{{ group.tests.length }}</span>
          </h2>
          <p class="mb-1 text-xs text-soft">{{ group.hint }}</p>
          <ul class="flex flex-col gap-1">
            <li v-for="test in group.tests" :key="test.test">
              <RouterLink class="hover:underline" :to="`/runs/${last(test).run}`">{{ test.name }}</RouterLink>
              <span v-if="test.since" class="block text-xs text-soft">since {{ ago(test.since) }}</span>
              <RouterLink v-if="test.known" class="block text-xs underline" :to="`/defects/${test.known}`"
                >defect {{ test.known }}</RouterLink
              >
            </li>
            <li v-if="!group.tests.length" class="text-soft">none</li>
          </ul>
        </section>
      </div>
      <section class="panel mb-5 p-4" aria-label="Tests and runs">
        <h2 class="mb-2 text-sm font-semibold">Tests and their last runs</h2>
        <HeatMap :tests="told.tests" />
      </section>
      <div class="grid gap-5 lg:grid-cols-2">
        <Steadiness :tests="shaky" />
        <section class="panel p-4 text-sm" aria-label="Slow sentences">
          <h2 class="font-semibold">Slow sentences</h2>
          <p class="mb-2 text-xs text-soft">
            Medians of the last five times, against the sentence's own past on that station.
          </p>
          <table v-if="told.slow.length" class="list-table text-sm" data-role="slow">
            <thead>
              <tr>
                <th>Sentence</th>
                <th class="text-right">now</th>
                <th class="text-right">usual</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in told.slow" :key="`${one.test} ${one.sentence} ${one.station}`">
                <td>
                  <span class="story block wrap-anywhere">{{ one.sentence }}</span>
                  <span class="text-xs text-soft">{{
                    [one.name, one.station].filter(Boolean).join(', ')
                  }}</span>
                </td>
                <td class="text-right whitespace-nowrap" :class="one.slower && 'font-semibold text-odd'">
                  {{ one.now.toFixed(1) }} s<span v-if="one.slower" class="block text-xs">slower</span>
                </td>
                <td class="text-right whitespace-nowrap">{{ one.usual.toFixed(1) }} s</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="text-soft">Nothing takes long enough, or was played often enough to tell.</p>
        </section>
      </div>
    </template>
  </div>
</template>
