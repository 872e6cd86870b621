<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'

import { api, ask, mayChange, session } from '@/api/client'
import { useStations } from '@/api/queries'
import RunTable from '@/features/runs/RunTable.vue'
import Empty from '@/shared/Empty.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useTestList } from '@/shared/lists'
import { ago } from '@/shared/times'
import { here } from '@/shared/zones'

const broken = useTestList(ref(''), ref('failed,interrupted'), ref('changed'))
const stations = useStations()
const runs = useQuery({
  queryKey: ['runs', 'home'],
  queryFn: () => ask(api.GET('/api/runs', { params: { query: { kind: 'run' } } })),
})
const defects = useQuery({
  queryKey: ['defects', 'home'],
  queryFn: () => ask(api.GET('/api/defects', { params: { query: { state: 'open,in work' } } })),
})

/** Drawing is dear to fetch: the rest of the page does not wait for it. */
const Days = defineAsyncComponent(() => import('@/features/trends/Days.vue'))
const trends = useQuery({
  queryKey: ['trends', 'home'],
  queryFn: () => ask(api.GET('/api/trends', { params: { query: { days: 14, zone: here } } })),
})
const bars = computed(
  () => trends.data.value?.days.map((one) => ({ name: one.day, counts: one.counts })) ?? [],
)

const up = computed(() => stations.data.value?.stations.filter((one) => one.up) ?? [])
const outcomes = computed(() => broken.first.value?.outcomes ?? {})
const never = computed(() => outcomes.value['never ran'] ?? 0)
const none = computed(() => broken.first.value && Object.keys(outcomes.value).length === 0)
const error = computed(() => broken.error.value ?? runs.error.value ?? defects.error.value)
</script>

<template>
  <div class="page">
    <div class="mb-5 flex items-baseline gap-4">
      <h1 class="heading">Good to see you, {{ session.me?.account.name.split(' ')[0] }}</h1>
      <RouterLink v-if="mayChange()" to="/tests?new=1" class="button button-main ml-auto"
        >New test</RouterLink
      >
    </div>
    <Trouble :error="error" class="mb-4" />
    <Empty v-if="none" title="No test yet"> Point at your application and record the first one. </Empty>
    <div v-else class="grid gap-6 lg:grid-cols-[1fr_22rem]">
      <section>
        <div v-if="bars.length > 1" class="panel mb-4 p-3" data-role="days">
          <p class="mb-1 flex text-sm">
            <span class="font-semibold">Rows by day</span>
            <RouterLink class="ml-auto underline" to="/trends">Trends</RouterLink>
          </p>
          <Days :bars="bars" label="How many rows ended how in the last 14 days" />
        </div>
        <h2 class="mb-2 text-sm font-semibold">Latest runs</h2>
        <RunTable v-if="runs.data.value?.runs.length" :rows="runs.data.value.runs.slice(0, 12)" />
        <p v-else class="text-soft">Nothing has run yet. Open a test and press Run.</p>
      </section>
      <aside class="flex flex-col gap-5">
        <section class="panel p-4">
          <h2 class="mb-2 text-sm font-semibold">Needs a look</h2>
          <ul class="flex flex-col gap-2 text-sm">
            <li
              v-for="test in broken.rows.value.slice(0, 12)"
              :key="test.id"
              class="flex items-baseline gap-2"
            >
              <Outcome :outcome="test.last_run!.state" bare />
              <RouterLink class="truncate hover:underline" :to="`/runs/${test.last_run!.id}`">{{
                test.name
              }}</RouterLink>
              <span class="ml-auto shrink-0 text-xs text-soft">{{ ago(test.last_run!.ended_at) }}</span>
            </li>
            <li v-if="broken.rows.value.length > 12">
              <RouterLink class="text-soft hover:underline" to="/tests?outcome=failed">and more</RouterLink>
            </li>
            <li v-if="broken.first.value && broken.rows.value.length === 0" class="text-soft">
              Every test that ran last passed.
            </li>
            <li v-if="never" class="text-soft">{{ never }} never ran.</li>
          </ul>
        </section>
        <section class="panel p-4">
          <h2 class="mb-2 text-sm font-semibold">Open defects</h2>
          <ul class="flex flex-col gap-2 text-sm">
            <li v-for="defect in defects.data.value?.defects.slice(0, 6)" :key="defect.id" class="flex gap-2">
              <RouterLink class="line-clamp-2 hover:underline" :to="`/defects/${defect.id}`">{{
                defect.title
              }}</RouterLink>
              <span class="ml-auto shrink-0 text-xs text-soft">{{ defect.severity }}</span>
            </li>
            <li v-if="defects.data.value?.defects.length === 0" class="text-soft">No defect is open.</li>
          </ul>
        </section>
        <section class="panel p-4 text-sm">
          <h2 class="mb-2 font-semibold">Stations</h2>
          <p v-if="up.length" class="text-soft">
            {{ up.length }} up, {{ up.reduce((sum, one) => sum + one.busy, 0) }}
            {{ up.reduce((sum, one) => sum + one.busy, 0) === 1 ? 'row' : 'rows' }} under way
          </p>
          <p v-else class="text-bad">No station is up: nothing can run or be recorded.</p>
        </section>
      </aside>
    </div>
  </div>
</template>
