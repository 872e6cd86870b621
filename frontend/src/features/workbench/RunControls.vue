<script setup lang="ts">
import { Play, Square } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import Near from '@/shared/Near.vue'
import { complain } from '@/shared/notes'
import { useTyped } from '@/shared/useTyped'

import BrowserChoice from './BrowserChoice.vue'
import type { Asked } from './useRunning'

/** Which rows to run and where; starting and cancelling. */
const props = defineProps<{ test: Test; going: boolean }>()
const emit = defineEmits<{ start: [asked: Asked]; cancel: [] }>()

/** The environment to run in, 0 for that of the test. */
const environment = defineModel<number>('environment', { required: true })

const which = ref('all')
const numbers = ref('')
const filter = ref('')
const browsers = ref<string[]>([])
const environments = useEnvironments()
const earlier = useQuery({
  queryKey: computed(() => ['runs', 'of', props.test.id]),
  queryFn: () => ask(api.GET('/api/runs', { params: { query: { test: props.test.id } } })),
})
/** The newest run on record in which something failed. */
const last = computed(
  () => earlier.data.value?.runs.find((one) => one.kind === 'run' && one.rows.failed)?.id ?? 0,
)

const rows = computed(
  () =>
    ({
      some: numbers.value.trim(),
      where: filter.value.trim() && `where ${filter.value.trim()}`,
      failed: `failed of ${last.value}`,
    })[which.value] ?? which.value,
)

/** What is wrong with the choice of rows, while it is typed. */
const typed = useTyped(() => props.test.id)
watch([which, numbers, filter], () => {
  const written = { some: numbers.value, where: filter.value }[which.value]
  if (written?.trim()) typed.check({ value: rows.value, choice: true })
  else typed.forget()
})
function correct(choice: string) {
  if (which.value === 'where') filter.value = choice.replace(/^where /, '')
  else numbers.value = choice
}

function start(kind: 'try' | 'run') {
  if (rows.value)
    emit('start', {
      kind,
      rows: rows.value,
      environment: environment.value,
      browsers: browsers.value,
    })
  else
    complain(
      new Error(
        which.value === 'where'
          ? 'Say which rows to run, for example clay = Raku.'
          : 'Say which rows to run, for example 3 or 2-5.',
      ),
    )
}
</script>

<template>
  <select
    v-if="(environments.data.value?.environments.length ?? 0) > 1"
    v-model="environment"
    class="field w-auto max-w-36"
    aria-label="Environment to run in"
    :title="`Runs at ${environments.data.value?.environments.find((one) => one.id === (environment || test.environment.id))?.address}`"
  >
    <option :value="0">{{ test.environment.name }}</option>
    <option
      v-for="one in environments.data.value?.environments.filter((it) => it.id !== test.environment.id)"
      :key="one.id"
      :value="one.id"
    >
      {{ one.name }}
    </option>
  </select>
  <span v-else class="chip shrink-0" :title="test.environment.address">{{ test.environment.name }}</span>
  <label v-if="test.kind === 'test'" class="flex items-center gap-1 text-sm text-soft">
    rows
    <select v-model="which" class="field w-auto max-w-24" aria-label="Which rows to run">
      <option value="all">all</option>
      <option value="ticked">ticked</option>
      <option value="some">some…</option>
      <option value="where">where…</option>
      <option v-if="last" value="failed">failed in run {{ last }}</option>
    </select>
  </label>
  <input
    v-if="which === 'some'"
    v-model="numbers"
    class="field w-24"
    placeholder="3 or 2-5"
    aria-label="Numbers of the rows"
    title="3, 2-5, 4- or 1,3,6-8"
  />
  <input
    v-if="which === 'where'"
    v-model="filter"
    class="field w-40"
    placeholder="clay = Raku"
    aria-label="What holds for the rows"
    title="clay = Raku and count > 5; values of several words in quotes"
  />
  <div v-if="typed.wrong.value.length" class="relative self-stretch">
    <Near
      class="floating absolute top-full right-0 z-20 mt-1 w-72 p-2"
      :wrong="typed.wrong.value"
      @pick="correct"
    />
  </div>
  <BrowserChoice v-if="test.kind === 'test'" v-model="browsers" />
  <template v-if="!going">
    <button
      class="button"
      data-role="try"
      title="A quick run for yourself; only the newest is kept"
      @click="start('try')"
    >
      <Play :size="14" /> Try
    </button>
    <button class="button button-main" data-role="run" title="A run on record" @click="start('run')">
      <Play :size="14" /> Run
    </button>
  </template>
  <button v-else class="button button-bad" data-role="cancel" @click="emit('cancel')">
    <Square :size="14" /> Cancel
  </button>
</template>
