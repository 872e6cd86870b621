<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import { useAct } from '@/shared/acting'
import Empty from '@/shared/Empty.vue'
import { say } from '@/shared/notes'
import { useRouteId } from '@/shared/routeId'
import Trouble from '@/shared/Trouble.vue'

import Share from './Share.vue'
import Shine from './Shine.vue'
import SpotCard from './SpotCard.vue'
import { KIND_NAMES } from './words'
import type { Spot } from './words'

/** What may change on the pages of a test without its checks noticing, and the checks it lacks. */
const id = useRouteId()
const test = useQuery({
  queryKey: ['tests', 'name', id.value],
  queryFn: () => ask(api.GET('/api/tests/{id}', { params: { path: { id: id.value } } })),
})
const query = useQuery({
  queryKey: ['blind spots', id.value],
  queryFn: () => ask(api.GET('/api/tests/{id}/blind-spots', { params: { path: { id: id.value } } })),
  placeholderData: (before) => before,
})
const told = computed(() => query.data.value)
/** The page that is shown; first the one of which most is dark. */
const picked = ref(-1)
const place = computed(() => {
  if (picked.value >= 0) return picked.value
  const dark = (told.value?.pages ?? []).map((one) =>
    one.spots.reduce((sum, spot) => sum + (spot.by ? 0 : spot.weight), 0),
  )
  return Math.max(0, dark.indexOf(Math.max(...dark)))
})
const page = computed(() => told.value?.pages[Math.min(place.value, told.value.pages.length - 1)])
const kind = ref<Spot['kind'] | ''>('')
const all = ref(false)
const chosen = ref<Spot | null>(null)
watch(page, () => (chosen.value = null))

const spots = computed(() =>
  [...(page.value?.spots ?? [])]
    .filter((one) => (all.value || !one.by) && (!kind.value || one.kind === kind.value))
    .sort((a, b) => Number(!!a.by) - Number(!!b.by) || b.weight - a.weight),
)
const MOST = 60
const more = ref(false)
const shown = computed(() => (more.value ? spots.value : spots.value.slice(0, MOST)))
watch([page, kind, all], () => (more.value = false))
const kinds = computed(() => {
  const counts = new Map<Spot['kind'], number>()
  for (const one of page.value?.spots ?? [])
    if (all.value || !one.by) counts.set(one.kind, (counts.get(one.kind) ?? 0) + 1)
  return (Object.keys(KIND_NAMES) as Spot['kind'][]).flatMap((name) =>
    counts.has(name) ? [{ name, count: counts.get(name)! }] : [],
  )
})
/** Where a sentence is: one of a flow is shown with its test. */
function placeOf(step: string) {
  const number = (test.data.value?.steps.findIndex((one) => one.id === step) ?? -1) + 1
  return number ? `/tests/${id.value}?sentence=${number}` : `/tests/${id.value}`
}
const blindOf = (one: { spots: Spot[] }) => one.spots.filter((spot) => !spot.by).length

function choose(spot: Spot) {
  if (!spots.value.includes(spot)) {
    kind.value = ''
    all.value = all.value || !!spot.by
  }
  chosen.value = spot
  const place = spots.value.indexOf(spot)
  if (place >= MOST) more.value = true
}

const { act: add, busy } = useAct(
  (spot: Spot) => {
    const { page, node, after, property, expected } = spot.offer!
    const inputs = { property, comparison: 'is', expected }
    return ask(
      api.POST('/api/saved-pages/{id}/steps', {
        params: { path: { id: page } },
        body: { test: id.value, after, steps: [{ node, action: 'check', inputs }] },
      }),
    )
  },
  {
    stale: [['blind spots'], ['test', id.value], ['tests']],
    done: (_, spot) => say(`Added to the test: ${spot.offer!.sentence}.`),
  },
)
</script>

<template>
  <div class="page">
    <div class="mb-3 flex flex-wrap items-baseline gap-3">
      <h1 class="heading">Blind spots</h1>
      <RouterLink class="truncate underline" :to="`/tests/${id}`">{{ test.data.value?.name }}</RouterLink>
      <RouterLink class="ml-auto text-sm text-soft hover:underline" to="/blind-spots"
        >of all tests</RouterLink
      >
    </div>
    <Trouble :error="query.error.value" />
    <p v-if="query.isLoading.value" class="text-soft">Changing one thing after the other…</p>
    <Empty v-else-if="told && !told.run" title="Nothing is known of its pages yet">
      Run the test until it passes once: its first two rows keep what is on their pages. What your checks
      would not notice there is shown here then.
    </Empty>
    <template v-else-if="told">
      <Share :share="told.share" class="mb-4">
        of what may change on its pages would be noticed. Told on the pages of
        <RouterLink class="underline" :to="`/runs/${told.run}`">run {{ told.run }}</RouterLink
        >; what depends on the row counts three times.
        <template v-if="told.left_out">{{ told.left_out }} changes of long pages were not tried.</template>
      </Share>
      <section v-if="told.never.length" class="panel mb-4 p-3 text-sm" data-role="never">
        <h2 class="mb-1 font-semibold">Checks that can never fail</h2>
        <ul class="flex flex-col gap-1">
          <li v-for="one in told.never" :key="one.step">
            <RouterLink class="story underline" :to="placeOf(one.step)">{{ one.sentence }}</RouterLink>
            <span class="ml-2 text-soft">{{ one.why }}</span>
          </li>
        </ul>
      </section>
      <div class="mb-2 flex flex-wrap gap-1" role="group" aria-label="Pages">
        <button
          v-for="(one, number) in told.pages"
          :key="one.page"
          class="chip"
          :class="page === one && 'border-ink font-semibold'"
          :aria-pressed="page === one"
          @click="picked = number"
        >
          {{ one.title || 'a page without a title' }} <span class="text-soft">{{ blindOf(one) }}</span>
        </button>
      </div>
      <div v-if="page" class="grid gap-4 lg:grid-cols-[minmax(0,1fr)_26rem]">
        <div class="min-w-0">
          <Shine
            v-if="page.picture"
            :digest="page.picture"
            :spots="page.spots"
            :chosen="chosen"
            @choose="choose"
          />
          <p v-else class="text-soft">No picture was kept of this page.</p>
          <p class="mt-1.5 text-xs text-soft">
            Lit with a full edge: a check would notice. Double edge: some changes of it. Dark with a broken
            edge: none.
          </p>
        </div>
        <section class="flex min-w-0 flex-col gap-2" aria-label="What would not be noticed">
          <div class="flex flex-wrap items-center gap-1" role="group" aria-label="Kinds of change">
            <button
              v-for="one in kinds"
              :key="one.name"
              class="chip"
              :class="kind === one.name && 'border-ink font-semibold'"
              :aria-pressed="kind === one.name"
              @click="kind = kind === one.name ? '' : one.name"
            >
              {{ KIND_NAMES[one.name] }} <span class="text-soft">{{ one.count }}</span>
            </button>
            <label class="ml-auto flex items-center gap-1.5 text-xs"
              ><input v-model="all" type="checkbox" /> with what is noticed</label
            >
          </div>
          <ol class="flex max-h-[34rem] flex-col gap-1.5 overflow-auto" tabindex="0" aria-label="Changes">
            <SpotCard
              v-for="(spot, number) in shown"
              :key="number"
              :spot="spot"
              :chosen="chosen === spot"
              :busy="busy"
              :fixed="!mayChange()"
              @choose="chosen = spot"
              @add="add(spot)"
            />
            <li v-if="spots.length > shown.length">
              <button class="button" @click="more = true">{{ spots.length - shown.length }} more</button>
            </li>
            <li v-if="!spots.length" class="text-sm text-soft">
              Whatever of that changes on this page, a check would notice.
            </li>
          </ol>
        </section>
      </div>
      <details v-if="told.untried.length" class="mt-4 text-sm text-soft">
        <summary class="cursor-pointer">
          {{ told.untried.length }} sentences do not hold on the kept pages: nothing is told of them
        </summary>
        <ul class="ml-5 list-disc">
          <li v-for="one in told.untried" :key="one.step">{{ one.sentence }}</li>
        </ul>
      </details>
    </template>
  </div>
</template>
