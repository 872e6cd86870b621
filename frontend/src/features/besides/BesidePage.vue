<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'
import { useWalk } from '@/shared/walking'

import PairDetail from './PairDetail.vue'
import SideHead from './SideHead.vue'
import { called, WHAT } from './words'

/** Two plays side by side: the sentences in pairs, from the first one at which they part. */
const route = useRoute()
const router = useRouter()
const one = computed(() => Number(route.params.one))
const other = computed(() => Number(route.query.with) || 0)

const offered = useQuery({
  queryKey: computed(() => ['beside', one.value]),
  queryFn: () => ask(api.GET('/api/casts/{id}/beside', { params: { path: { id: one.value } } })),
})
const query = useQuery({
  queryKey: computed(() => ['beside', one.value, other.value]),
  queryFn: () =>
    ask(
      api.GET('/api/casts/{id}/beside/{other}', {
        params: { path: { id: one.value, other: other.value } },
      }),
    ),
  enabled: computed(() => other.value > 0),
})
/** Held against the likeliest play as long as nobody chose another. */
watch(
  offered.data,
  (now) => {
    const first = now?.plays[0]
    if (first && !other.value) void router.replace({ query: { with: String(first.cast) } })
  },
  { immediate: true },
)
const told = computed(() => query.data.value)
const onlyParting = ref(false)
const place = ref(0)
watch(told, (now) => (place.value = now?.first ?? 0), { immediate: true })
const pairs = computed(() => told.value?.pairs ?? [])
const shown = computed(() =>
  pairs.value
    .map((pair, at) => ({ pair, at }))
    .filter(({ pair }) => !onlyParting.value || pair.differs.length),
)
const pair = computed(() => pairs.value[place.value])
const partings = computed(() => pairs.value.filter((one) => one.parts).length)
const wordsOf = (pair: Shapes['PairOut']) => pair.differs.map((one) => WHAT[one.what].short).join(', ')
const chosen = computed({
  get: () => other.value,
  set: (cast) => void router.replace({ query: { with: String(cast) } }),
})
const choices = computed(() => {
  const plays = offered.data.value?.plays ?? []
  const now = told.value?.other
  return now && !plays.some((one) => one.cast === now.cast) ? [now, ...plays] : plays
})

useWalk(
  () => shown.value.map((one) => one.at),
  () => place.value,
  (at) => (place.value = at),
)
</script>

<template>
  <div class="flex h-full flex-col px-6 py-4">
    <h1 class="heading mb-2">Side by side</h1>
    <Trouble :error="offered.error.value ?? query.error.value" />
    <p v-if="offered.data.value && !choices.length" class="text-soft">
      There is nothing to hold it against yet: it is the only time that this test was played.
    </p>
    <div v-if="offered.data.value && choices.length" class="mb-3 grid grid-cols-2 gap-4">
      <SideHead :side="offered.data.value.one" label="This play" />
      <SideHead v-if="told" :side="told.other" label="Held against">
        <select v-model="chosen" class="field w-auto max-w-full" aria-label="Hold it against">
          <option v-for="play in choices" :key="play.cast" :value="play.cast">{{ called(play) }}</option>
        </select>
      </SideHead>
    </div>
    <template v-if="told">
      <p class="mb-2 flex flex-wrap items-center gap-3 text-sm" data-role="parting">
        <span v-if="told.first === null">They do not part: every sentence came to the same.</span>
        <span v-else
          >They part at sentence {{ told.first + 1
          }}{{ partings > 1 ? `, and differ in ${partings - 1} more` : '' }}.</span
        >
        <label class="ml-auto flex items-center gap-1.5 text-soft"
          ><input v-model="onlyParting" type="checkbox" /> only what differs</label
        >
        <span class="text-xs text-soft">↑ and ↓ walk</span>
      </p>
      <div class="grid min-h-0 flex-1 grid-cols-[22rem_minmax(0,1fr)] gap-4">
        <ol class="panel min-h-0 overflow-auto py-1" aria-label="Sentences" tabindex="0">
          <li v-for="{ pair: two, at } in shown" :key="at">
            <button
              class="flex w-full gap-2 px-3 py-1.5 text-left hover:bg-sunk"
              :class="at === place && 'bg-sunk'"
              :aria-current="at === place"
              data-role="pair"
              @click="place = at"
            >
              <span
                class="w-4 shrink-0 text-center font-semibold"
                :class="two.parts ? 'text-bad' : 'text-soft'"
                >{{ two.parts ? '≠' : two.differs.length ? '≈' : '=' }}</span
              >
              <span class="min-w-0 flex-1">
                <span class="story block wrap-anywhere" :class="!two.parts && 'text-soft'">{{
                  (two.one ?? two.other)!.sentence
                }}</span>
                <span v-if="two.differs.length" class="block text-xs text-soft">{{ wordsOf(two) }}</span>
              </span>
            </button>
          </li>
        </ol>
        <PairDetail v-if="pair" :key="place" :pair="pair" class="min-h-0 overflow-auto" />
      </div>
    </template>
  </div>
</template>
