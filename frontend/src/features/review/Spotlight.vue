<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import RaiseDefect from '@/features/defects/RaiseDefect.vue'
import Trouble from '@/shared/Trouble.vue'
import { vScrolls } from '@/shared/scrolls'

import CauseCard from './CauseCard.vue'

/** What failed in a run, or in a run of a plan, put together by cause: whose fault each is. */
const props = defineProps<{ run?: number; planRun?: number; failed: number; over: boolean }>()
const emit = defineEmits<{ open: [failure: Shapes['FailureOut']] }>()
const router = useRouter()
const queries = useQueryClient()
const key = computed(() => ['causes', props.run ?? 0, props.planRun ?? 0])
const query = useQuery({
  queryKey: key,
  queryFn: () =>
    props.run
      ? ask(api.GET('/api/runs/{id}/causes', { params: { path: { id: props.run } } }))
      : ask(api.GET('/api/plan-runs/{id}/causes', { params: { path: { id: props.planRun! } } })),
  // What is left is judged the next time that it is asked for.
  refetchInterval: (state) => (state.state.data?.left ? 500 : false),
})
watch(
  () => [props.failed, props.over],
  () => queries.invalidateQueries({ queryKey: key.value }),
)
const found = computed(() => query.data.value)
const raising = ref<Shapes['CauseOut'] | null>(null)
const others = computed(() => raising.value?.failures.slice(1).map((one) => one.result) ?? [])
const title = computed(() => {
  const causes = found.value?.causes.length ?? 0
  const failures = found.value?.failed === 1 ? '1 failure' : `${found.value?.failed} failures`
  return `${failures}, ${causes === 1 ? 'one cause' : `${causes} causes`}`
})
function open(failure: Shapes['FailureOut']) {
  if (props.run) emit('open', failure)
  else void router.push(`/runs/${failure.run}?row=${failure.cast}&result=${failure.result}`)
}
</script>

<template>
  <section v-if="failed" aria-label="Spotlight" class="mb-3" data-role="spotlight">
    <h2 class="mb-1 flex items-baseline gap-3 text-sm font-semibold">
      Spotlight
      <span v-if="found" class="font-normal text-soft" data-role="causes">{{ title }}</span>
      <span v-if="found?.left" class="font-normal text-soft">{{ found.left }} still to be looked at…</span>
      <span v-if="found?.corrected" class="ml-auto text-xs font-normal text-soft">{{
        found.corrected === 1
          ? 'Corrected once by people so far'
          : `Corrected ${found.corrected} times by people so far`
      }}</span>
    </h2>
    <Trouble :error="query.error.value" />
    <p v-if="query.isLoading.value" class="text-sm text-soft">Looking at what failed…</p>
    <ol v-if="found?.causes.length" v-scrolls class="panel max-h-64 overflow-auto">
      <CauseCard
        v-for="one in found.causes"
        :key="one.fingerprint + one.kind"
        :cause="one"
        :run="run"
        @open="open"
        @raise="raising = one"
      />
    </ol>
    <RaiseDefect
      v-if="raising"
      :open="true"
      :result-id="raising.failures[0]!.result"
      :also="others"
      @update:open="raising = null"
    />
  </section>
</template>
