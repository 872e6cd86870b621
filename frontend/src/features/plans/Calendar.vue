<script setup lang="ts">
import { ChevronLeft, ChevronRight } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { clock } from '@/shared/times'

import CalendarGrid from './CalendarGrid.vue'
import CalendarMonth from './CalendarMonth.vue'
import { daysOf, stepped, titleOf } from './days'
import type { View } from './days'

/** What ran, runs and will run: a month, a week or a day at a time, of all plans or of one. */
type Entry = Shapes['CalendarEntry']
const router = useRouter()
const view = ref<View>('month')
const day = ref(new Date())
const plan = ref('')
const days = computed(() => daysOf(view.value, day.value))
const span = computed(() => {
  const end = new Date(days.value.at(-1)!)
  end.setDate(end.getDate() + 1)
  return { begin: days.value[0]!.toISOString(), end: end.toISOString() }
})
const query = useQuery({
  queryKey: computed(() => ['plans', 'calendar', span.value]),
  queryFn: () => ask(api.GET('/api/calendar', { params: { query: span.value } })),
  placeholderData: (before: Shapes['Calendar'] | undefined) => before,
  refetchInterval: 30_000,
})
const plans = computed(() => [...new Set(query.data.value?.entries.map((one) => one.plan))].sort())
const entries = computed(
  () => query.data.value?.entries.filter((one) => !plan.value || one.plan === plan.value) ?? [],
)

/** Where something that repeats was dropped: whether it alone or all of it is moved is asked. */
const dropped = ref<{ entry: Entry; to: Date } | null>(null)
const { act: move } = useAct(
  ({ entry, to, every }: { entry: Entry; to: string; every: boolean }) =>
    ask(
      api.POST('/api/schedules/{id}/move', {
        params: { path: { id: entry.schedule! } },
        body: { was: entry.begin, to, every },
      }),
    ),
  { stale: [['plans']] },
)
function drop(entry: Entry, to: Date) {
  if (+to === Date.parse(entry.begin)) return
  if (entry.repeats) dropped.value = { entry, to }
  else void move({ entry, to: to.toISOString(), every: false })
}
function moveDropped(every: boolean) {
  const { entry, to } = dropped.value!
  dropped.value = null
  void move({ entry, to: to.toISOString(), every })
}
function open(entry: Entry) {
  if (entry.run) void router.push(`/plan-runs/${entry.run}`)
  else if (entry.plan_id) void router.push(`/plans/${entry.plan_id}`)
}
function openDay(date: Date) {
  day.value = date
  view.value = 'day'
}
const VIEWS: View[] = ['month', 'week', 'day']
</script>

<template>
  <div class="page flex h-full max-w-7xl flex-col">
    <div class="mb-3 flex flex-wrap items-center gap-2">
      <h1 class="heading mr-2">Calendar</h1>
      <RouterLink class="button" to="/plans">Plans</RouterLink>
      <span class="mx-1 h-5 border-l border-line" />
      <button class="button px-1.5" aria-label="Back" @click="day = stepped(view, day, -1)">
        <ChevronLeft :size="16" />
      </button>
      <button class="button" @click="day = new Date()">Today</button>
      <button class="button px-1.5" aria-label="On" @click="day = stepped(view, day, 1)">
        <ChevronRight :size="16" />
      </button>
      <span class="ml-1 font-story text-lg" data-role="shown">{{ titleOf(view, day) }}</span>
      <label class="ml-auto flex items-center gap-2 text-sm text-soft"
        >Plan
        <select v-model="plan" class="field w-auto max-w-48">
          <option value="">all</option>
          <option v-for="one in plans" :key="one">{{ one }}</option>
        </select></label
      >
      <div class="flex gap-1" role="group" aria-label="How much is shown">
        <button
          v-for="one in VIEWS"
          :key="one"
          class="button capitalize"
          :class="view === one && 'border-ink bg-sunk font-semibold'"
          :aria-pressed="view === one"
          @click="view = one"
        >
          {{ one }}
        </button>
      </div>
    </div>
    <Trouble :error="query.error.value" />
    <CalendarMonth
      v-if="view === 'month'"
      :days="days"
      :month="day.getMonth()"
      :entries="entries"
      :fixed="!mayChange()"
      @open="open"
      @day="openDay"
      @drop="drop"
    />
    <CalendarGrid
      v-else
      :days="days"
      :entries="entries"
      :fixed="!mayChange()"
      @open="open"
      @day="openDay"
      @drop="drop"
    />
    <p class="mt-2 text-xs text-soft">
      What is to come lasts as long as the plan took the last time. Drag it to another time.
      <b class="text-odd">Too much at once</b> marks what takes more than the
      {{ query.data.value?.places ?? 0 }} places of all stations together with what overlaps it.
    </p>
    <Modal :open="dropped !== null" title="It repeats. What is moved?" @update:open="dropped = null">
      <p v-if="dropped">
        “{{ dropped.entry.plan }}” from {{ new Date(dropped.entry.begin).toLocaleDateString() }},
        {{ clock(dropped.entry.begin) }} to {{ dropped.to.toLocaleDateString() }}, {{ clock(dropped.to) }}.
      </p>
      <div class="mt-4 flex justify-end gap-2">
        <button class="button" @click="dropped = null">Nothing</button>
        <button class="button" @click="moveDropped(true)">Every one, to that time of day</button>
        <button class="button button-main" @click="moveDropped(false)">This one alone</button>
      </div>
    </Modal>
  </div>
</template>
