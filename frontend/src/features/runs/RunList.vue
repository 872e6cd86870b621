<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { X } from '@lucide/vue'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'

import { api, ask } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'

import RunTable from './RunTable.vue'

const STATES = ['passed', 'failed', 'running', 'queued', 'interrupted', 'cancelled']
const route = useRoute()
const state = ref(String(route.query.state ?? ''))
const kind = ref('')
const words = ref('')
const query = useDebounce(words, 200)
const test = computed(() => Number(route.query.test) || undefined)

const runs = useInfiniteQuery({
  queryKey: ['runs', state, kind, query, test],
  initialPageParam: undefined as number | undefined,
  queryFn: ({ pageParam }) =>
    ask(
      api.GET('/api/runs', {
        params: {
          query: {
            state: state.value,
            kind: kind.value,
            q: query.value,
            before: pageParam,
            test: test.value,
          },
        },
      }),
    ),
  getNextPageParam: (page) => (page.more ? page.runs.at(-1)?.id : undefined),
})
const listed = computed(() => runs.data.value?.pages.flatMap((page) => page.runs) ?? [])
const filtered = computed(() => Boolean(state.value || kind.value || query.value || test.value))
</script>

<template>
  <div class="page">
    <div class="mb-4 flex items-center gap-3">
      <h1 class="heading">Runs</h1>
      <input
        v-model="words"
        class="field ml-4 max-w-64"
        type="search"
        placeholder="Search by test"
        aria-label="Search runs"
      />
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
      <RouterLink v-if="test" to="/runs" class="chip">
        one test only <X :size="12" aria-label="Remove this filter" />
      </RouterLink>
    </div>
    <Trouble :error="runs.error.value" />
    <Empty
      v-if="runs.data.value && listed.length === 0"
      :title="filtered ? 'No run fits' : 'Nothing has run yet'"
    >
      <template v-if="filtered">Take a filter away to see more.</template>
      <template v-else>Open a test and press Run: every step, picture and message is kept here.</template>
    </Empty>
    <RunTable v-else-if="listed.length" :runs="listed" />
    <div v-if="runs.hasNextPage.value" class="mt-3 text-center">
      <button class="button" :disabled="runs.isFetchingNextPage.value" @click="runs.fetchNextPage()">
        Show older runs
      </button>
    </div>
  </div>
</template>
