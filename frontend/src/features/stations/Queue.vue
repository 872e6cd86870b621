<script setup lang="ts">
import { ChevronsDown, ChevronsUp, Minus } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask, isLead } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useBrowserTitles } from '@/api/queries'
import { useAct } from '@/shared/acting'

/** What waits for a station, in the order in which it is given out; a lead can move things. */
const query = useQuery({
  queryKey: ['queue'],
  queryFn: () => ask(api.GET('/api/queue')),
  refetchInterval: 3000,
})
const titled = useBrowserTitles()
type Waiting = Shapes['QueuedCast']
const waiting = computed(() => query.data.value?.waiting ?? [])
const { act: move } = useAct(
  ({ share, boost }: { share: number; boost: -1 | 0 | 1 }) =>
    ask(api.POST('/api/queue/{id}/move', { params: { path: { id: share } }, body: { boost } })),
  { stale: [['queue']] },
)
const MOVES = [
  { boost: 1, words: 'Before all others', icon: ChevronsUp },
  { boost: 0, words: 'As usual', icon: Minus },
  { boost: -1, words: 'After all others', icon: ChevronsDown },
] as const
const moves = (one: Waiting) =>
  isLead() && one.share && one.kind !== 'try' ? MOVES.filter((to) => to.boost !== one.boost) : []
const whose = (one: Waiting) =>
  one.kind === 'try' ? 'a try' : one.plan ? `plan “${one.plan}”` : `run ${one.run}`
</script>

<template>
  <section class="mt-6" data-role="queue">
    <h2 class="mb-1 text-sm font-semibold">What waits</h2>
    <p v-if="!waiting.length" class="text-sm text-soft">Nothing: whatever starts now begins at once.</p>
    <template v-else>
      <p class="mb-2 text-sm text-soft">
        In the order in which stations take it. Tries go first; plans share the stations as their weights say,
        and each offers only as much as can begin soon.
      </p>
      <div class="panel">
        <table class="list-table text-sm">
          <thead>
            <tr>
              <th>Place</th>
              <th>Test</th>
              <th>Browser</th>
              <th>Of</th>
              <th><span class="sr-only">Move</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, place) in waiting" :key="one.cast">
              <td class="text-soft">{{ place + 1 }}</td>
              <td>
                <RouterLink class="hover:underline" :to="`/runs/${one.run}`"
                  >{{ one.test }}<template v-if="one.number">, row {{ one.number }}</template></RouterLink
                >
              </td>
              <td>{{ titled(one.browser) }}</td>
              <td>
                {{ whose(one) }}
                <span v-if="one.boost" class="chip">{{
                  one.boost > 0 ? 'before all others' : 'after all others'
                }}</span>
              </td>
              <td class="text-right whitespace-nowrap">
                <button
                  v-for="to in moves(one)"
                  :key="to.boost"
                  class="button-bare px-1"
                  :title="`${to.words}: all of ${whose(one)}`"
                  :aria-label="`${to.words}: ${whose(one)}`"
                  @click="move({ share: one.share!, boost: to.boost })"
                >
                  <component :is="to.icon" :size="14" />
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>
