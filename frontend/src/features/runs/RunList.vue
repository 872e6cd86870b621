<script setup lang="ts">
import { useDebounce } from '@vueuse/core'
import { X } from '@lucide/vue'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'

import { api, ask } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import LabelFilter from '@/shared/LabelFilter.vue'
import ListHead from '@/shared/ListHead.vue'
import Trouble from '@/shared/Trouble.vue'
import { usePaged } from '@/shared/lists'

import RunTable from './RunTable.vue'

const STATES = ['passed', 'unsteady', 'failed', 'running', 'queued', 'interrupted', 'cancelled']
const route = useRoute()
const state = ref(String(route.query.state ?? ''))
const kind = ref('')
const label = ref(String(route.query.label ?? ''))
const words = ref('')
const query = useDebounce(words, 200)
const test = computed(() => Number(route.query.test) || undefined)

const runs = usePaged(
  ['runs', state, kind, query, test, label],
  (after) =>
    ask(
      api.GET('/api/runs', {
        params: {
          query: {
            state: state.value,
            kind: kind.value,
            label: label.value,
            q: query.value,
            after,
            test: test.value,
          },
        },
      }),
    ),
  (page) => page.runs,
)
const filtered = computed(() =>
  Boolean(state.value || kind.value || query.value || test.value || label.value),
)
</script>

<template>
  <div class="page">
    <ListHead v-model:words="words" title="Runs" search="Search runs" hint="Search by test">
      <label class="flex items-center gap-2 text-sm text-soft">
        Outcome
        <select v-model="state" class="field w-auto">
          <option value="">any</option>
          <option v-for="one in STATES" :key="one">{{ one }}</option>
        </select>
      </label>
      <label class="flex items-center gap-2 text-sm text-soft">
        Kind
        <select v-model="kind" class="field w-auto">
          <option value="">any</option>
          <option value="run">run</option>
          <option value="try">try</option>
        </select>
      </label>
      <LabelFilter v-model="label" />
      <RouterLink v-if="test" to="/runs" class="chip">
        one test only <X :size="12" aria-label="Remove this filter" />
      </RouterLink>
    </ListHead>
    <Trouble :error="runs.error.value" />
    <Empty
      v-if="runs.first.value && runs.rows.value.length === 0"
      :title="filtered ? 'No run fits' : 'Nothing has run yet'"
    >
      <template v-if="filtered">Take a filter away to see more.</template>
      <template v-else>Open a test and press Run: every step, picture and message is kept here.</template>
    </Empty>
    <RunTable v-else-if="runs.rows.value.length" :list="runs" />
  </div>
</template>
