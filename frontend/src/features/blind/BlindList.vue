<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import { percent } from '@/features/review/kinds'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'

import Share from './Share.vue'

/** How much each test would notice of what may change on its pages, those that see least first. */
const query = useQuery({
  queryKey: ['blind spots', 'all'],
  queryFn: () => ask(api.GET('/api/blind-spots')),
  // Some tests are looked at with each asking, until all are.
  refetchInterval: (query) => (query.state.data?.left ? 300 : false),
})
const told = computed(() => query.data.value)
const tests = computed(() =>
  [...(told.value?.tests ?? [])].sort(
    (a, b) => (a.share ?? 2) - (b.share ?? 2) || a.name.localeCompare(b.name),
  ),
)
</script>

<template>
  <div class="page">
    <h1 class="heading mb-3">Blind spots</h1>
    <Trouble :error="query.error.value" />
    <Empty v-if="told && !told.tests.length" title="No test yet">
      What checks would not notice is told of tests that passed once.
    </Empty>
    <template v-else-if="told">
      <Share :share="told.share" class="mb-4">
        of what may change on all pages would be noticed by the checks.
        <span v-if="told.left" aria-live="polite">{{ told.left }} tests are still to be looked at…</span>
      </Share>
      <div class="panel overflow-x-auto">
        <table class="list-table text-sm">
          <thead>
            <tr>
              <th>Test</th>
              <th>Would be noticed</th>
              <th class="text-right">Blind spots</th>
              <th class="text-right">Checks that never fail</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in tests" :key="one.test" :data-test="one.test">
              <td class="max-w-96 truncate">
                <RouterLink class="hover:underline" :to="`/tests/${one.test}/blind-spots`">{{
                  one.name
                }}</RouterLink>
              </td>
              <td>
                <span v-if="one.share === null" class="text-soft">it has not passed yet</span>
                <span v-else class="flex items-center gap-2"
                  ><span class="w-12 text-right">{{ percent(one.share) }}</span
                  ><span
                    class="h-2 w-40 overflow-hidden rounded-full border border-line bg-sunk"
                    aria-hidden="true"
                    ><span class="block h-full bg-lit" :style="{ width: `${one.share * 100}%` }" /></span
                ></span>
              </td>
              <td class="text-right">{{ one.share === null ? '' : one.blind }}</td>
              <td class="text-right">{{ one.never || '' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </div>
</template>
