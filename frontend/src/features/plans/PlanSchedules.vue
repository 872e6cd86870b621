<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { exact } from '@/shared/times'

import { when } from './days'
import ScheduleForm from './ScheduleForm.vue'

/** When a plan starts by itself. */
type One = Shapes['ScheduleOut']
const props = defineProps<{ plan: number; fixed: boolean }>()
const query = useQuery({
  queryKey: computed(() => ['plans', 'schedules', props.plan]),
  queryFn: () => ask(api.GET('/api/plans/{id}/schedules', { params: { path: { id: props.plan } } })),
})
const stale = [['plans']]
/** The one whose times are changed, 0 for a new one, null for none. */
const editing = ref<number | null>(null)
const body = (one: One) => one.schedule
const next = (one: One) =>
  one.next
    .slice(0, 3)
    .map((time) => when(time, one.schedule.zone ?? 'UTC'))
    .join(' · ')
const { act: put } = useAct(
  ({ one, schedule }: { one: One; schedule: Shapes['ScheduleBody'] }) =>
    ask(
      api.PUT('/api/schedules/{id}', {
        params: { path: { id: one.id } },
        body: { base: one.version, schedule },
      }),
    ),
  { stale, done: () => (editing.value = null) },
)
const { act: make } = useAct(
  (schedule: Shapes['ScheduleBody']) =>
    ask(api.POST('/api/plans/{id}/schedules', { params: { path: { id: props.plan } }, body: schedule })),
  { stale, done: () => (editing.value = null) },
)
const { act: drop } = useAct(
  (one: One) => ask(api.DELETE('/api/schedules/{id}', { params: { path: { id: one.id } } })),
  { stale },
)
</script>

<template>
  <section class="panel p-4 text-sm" data-role="schedules">
    <div class="mb-2 flex items-baseline gap-3">
      <h2 class="font-semibold">When it starts by itself</h2>
      <RouterLink class="text-soft underline" to="/plans/calendar">Calendar</RouterLink>
      <button v-if="!fixed && editing === null" class="button ml-auto py-0.5" @click="editing = 0">
        Add a time
      </button>
    </div>
    <p v-if="query.data.value?.schedules.length === 0 && editing === null" class="text-soft">
      Never: somebody starts it.
    </p>
    <ul class="flex flex-col gap-2">
      <li v-for="one in query.data.value?.schedules" :key="one.id" :data-schedule="one.id">
        <ScheduleForm
          v-if="editing === one.id"
          :schedule="body(one)"
          @save="put({ one, schedule: $event })"
          @close="editing = null"
        />
        <template v-else>
          <div class="flex items-baseline gap-2">
            <input
              type="checkbox"
              :checked="one.schedule.enabled"
              :disabled="fixed"
              :aria-label="`Switch on: ${one.words}`"
              @change="put({ one, schedule: { ...body(one), enabled: !one.schedule.enabled } })"
            />
            <span :class="!one.schedule.enabled && 'text-soft line-through'">{{ one.words }}</span>
            <span class="text-soft">{{ one.schedule.zone }}</span>
            <span v-if="!fixed" class="ml-auto flex gap-1">
              <button class="button py-0" @click="editing = one.id">Change</button>
              <button class="button py-0" :aria-label="`Delete: ${one.words}`" @click="drop(one)">
                Delete
              </button>
            </span>
          </div>
          <p class="ml-6 text-xs text-soft">
            <template v-if="one.next.length">next {{ next(one) }}</template>
            <template v-else>{{
              one.schedule.enabled ? 'It does not come again.' : 'Switched off.'
            }}</template>
            <template v-if="one.last">
              · last {{ exact(one.last) }}
              <RouterLink v-if="one.last_run" class="underline" :to="`/plan-runs/${one.last_run}`"
                >run {{ one.last_run }}</RouterLink
              ></template
            >
          </p>
          <p v-if="one.trouble" class="ml-6 text-xs text-odd">Nothing was started: {{ one.trouble }}</p>
        </template>
      </li>
    </ul>
    <ScheduleForm v-if="editing === 0" class="mt-2" @save="make($event)" @close="editing = null" />
  </section>
</template>
