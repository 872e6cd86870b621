<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, isLead } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useBrowserTitles } from '@/api/queries'
import Needs from '@/shared/Needs.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { asked } from '@/shared/questions'
import { ago, exact } from '@/shared/times'

import StationDays from './StationDays.vue'
import StationState from './StationState.vue'
import { MODES, browsersOf } from './words'

/** One station: what it may do, what it plays, and how that went lately. */
const titled = useBrowserTitles()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const key = computed(() => String(route.params.key))
const path = () => ({ params: { path: { key: key.value } } })
const query = useQuery({
  queryKey: computed(() => ['stations', key.value]),
  queryFn: () => ask(api.GET('/api/stations/{key}', path())),
  refetchInterval: 3000,
})
const one = computed(() => query.data.value?.station)
const { act: change } = useAct(
  (body: Shapes['StationChange']) => ask(api.PATCH('/api/stations/{key}', { ...path(), body })),
  { stale: [['stations']], done: (now) => queries.setQueryData(['stations', key.value], now) },
)
const { act: forget } = useAct(() => ask(api.DELETE('/api/stations/{key}', path())), {
  stale: [['stations']],
  done: () => {
    say('The station is not listed any more.')
    return router.push('/stations')
  },
})
const { act: retire } = useAct(() => ask(api.POST('/api/stations/{key}/retire', path())), {
  stale: [['stations']],
  done: () => {
    say('The station is retired.')
    return router.push('/stations')
  },
})
async function retireIt() {
  const sure = await asked({
    title: `Retire ${one.value!.name}?`,
    text: 'It is no station any more, at once: what it plays is given up, and it comes back only with a new token.',
    yes: 'Retire it',
    no: 'Keep it',
  })
  if (sure) await retire()
}
</script>

<template>
  <div class="page">
    <Trouble :error="query.error.value" />
    <template v-if="one">
      <div class="mb-2 flex items-center gap-3">
        <h1 class="heading truncate">{{ one.name }}</h1>
        <StationState :station="one" class="text-base" />
        <div v-if="isLead()" class="ml-auto flex gap-1" role="group" aria-label="What it may do">
          <button
            v-for="to in MODES"
            :key="to.mode"
            class="button"
            :class="one.mode === to.mode && 'border-ink bg-sunk font-semibold'"
            :aria-pressed="one.mode === to.mode"
            :title="to.title"
            @click="change({ mode: to.mode })"
          >
            {{ to.words }}
          </button>
          <button
            v-if="one.joined"
            class="button button-bad ml-2"
            title="Take its access back: it is no station any more"
            @click="retireIt()"
          >
            Retire it
          </button>
          <button v-else-if="!one.up" class="button button-bad ml-2" @click="forget()">Forget it</button>
        </div>
      </div>
      <p class="mb-4 flex flex-wrap gap-x-5 gap-y-1 text-sm text-soft">
        <span>{{ browsersOf(one) }}</span>
        <span>plays {{ one.busy }} of {{ one.places }}</span>
        <span>load {{ Math.round(one.load * 100) }} %</span>
        <span :title="exact(one.started_at)"
          >{{ one.up ? 'up' : 'was up' }} since {{ exact(one.started_at) }}</span
        >
        <span v-if="one.joined">joined over the network: it plays runs, and shows no stages</span>
        <span v-if="one.browser">running now: {{ one.browser }}</span>
      </p>
      <label class="mb-5 flex max-w-xl items-center gap-2 text-sm"
        >Labels
        <Needs
          :needs="one.labels"
          :fixed="!isLead()"
          label="Labels of the station"
          empty="none"
          @save="change({ labels: $event })"
      /></label>
      <div class="grid gap-6 lg:grid-cols-2">
        <section>
          <h2 class="mb-1 text-sm font-semibold">Plays now</h2>
          <p v-if="!query.data.value!.plays.length" class="text-sm text-soft">Nothing.</p>
          <ul class="text-sm">
            <li v-for="cast in query.data.value!.plays" :key="cast.cast" class="truncate">
              <RouterLink class="hover:underline" :to="`/runs/${cast.run}?row=${cast.cast}`"
                >{{ cast.test }}<template v-if="cast.number">, row {{ cast.number }}</template></RouterLink
              >
              <span class="text-soft"> in {{ titled(cast.browser) }} · {{ cast.sentence || 'begins' }}</span>
            </li>
          </ul>
          <h2 class="mt-5 mb-1 text-sm font-semibold">The last fourteen days</h2>
          <StationDays :days="query.data.value!.days" />
        </section>
        <section>
          <h2 class="mb-1 text-sm font-semibold">Last that did not go well here</h2>
          <p v-if="!query.data.value!.failures.length" class="text-sm text-soft">Nothing failed here.</p>
          <ul class="flex flex-col gap-1 text-sm">
            <li v-for="cast in query.data.value!.failures" :key="cast.cast" class="flex items-baseline gap-2">
              <Outcome :outcome="cast.outcome" bare />
              <RouterLink class="truncate hover:underline" :to="`/runs/${cast.run}?row=${cast.cast}`"
                >{{ cast.test }}<template v-if="cast.number">, row {{ cast.number }}</template></RouterLink
              >
              <span class="truncate text-soft">in {{ titled(cast.browser) }} {{ cast.message }}</span>
              <span class="ml-auto shrink-0 text-xs text-soft">{{ ago(cast.ended_at) }}</span>
            </li>
          </ul>
        </section>
      </div>
    </template>
  </div>
</template>
