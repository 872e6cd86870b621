<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import ScheduleForm from '@/features/plans/ScheduleForm.vue'
import PickOne from '@/shared/PickOne.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { usePlanList } from '@/shared/lists'
import type { Named } from '@/shared/lists'
import { say } from '@/shared/notes'
import { exact } from '@/shared/times'
import { here } from '@/shared/zones'

import HowReported from './HowReported.vue'
import PeopleChips from './PeopleChips.vue'
import { useChoices } from './choices'

/** Reports on order: mailed again and again. For leads. */
type Order = Shapes['OrderOut']
const query = useQuery({
  queryKey: ['reports', 'orders'],
  queryFn: () => ask(api.GET('/api/reports/orders')),
})
const orders = computed(() => query.data.value?.orders ?? [])
const choices = useChoices()
const stale = [['reports', 'orders']]

const empty = () => ({
  name: '',
  trends: false,
  plan: null as Named | null,
  days: 7,
  template: 'managers',
  form: 'html',
  people: [] as { id: number; name: string }[],
  schedule: undefined as Shapes['ScheduleBody'] | undefined,
})
const form = ref<ReturnType<typeof empty> | null>(null)
/** The one that is changed, 0 for a new one. */
const editing = ref(0)
const version = ref<number | null>(null)

function begin() {
  editing.value = 0
  form.value = empty()
}
function edit(one: Order) {
  editing.value = one.id
  version.value = one.version
  form.value = {
    name: one.name,
    trends: one.report.what === 'trends',
    plan: one.plan ? { id: one.plan, name: one.plan_name } : null,
    days: one.report.days ?? 7,
    template: one.report.template ?? 'managers',
    form: one.report.form ?? 'html',
    people: one.people.map((id, place) => ({ id, name: one.names[place] ?? 'somebody who is gone' })),
    schedule: one.schedule,
  }
}
const {
  act: save,
  trouble,
  forget,
} = useAct(
  (schedule: Shapes['ScheduleBody']) => {
    const { name, trends, plan, days, template, form: as, people } = form.value!
    const what = trends ? ('trends' as const) : ('plan run' as const)
    const body: Shapes['OrderIn'] = {
      name,
      report: { what, template, form: as, days, zone: here, key: 0 },
      plan: trends ? null : (plan?.id ?? null),
      people: people.map((one) => one.id),
      schedule,
      version: version.value,
    }
    if (!editing.value) return ask(api.POST('/api/reports/orders', { body }))
    return ask(api.PUT('/api/reports/orders/{id}', { params: { path: { id: editing.value } }, body }))
  },
  { inPlace: true, stale, done: () => (form.value = null) },
)
const { act: drop } = useAct(
  (one: Order) => ask(api.DELETE('/api/reports/orders/{id}', { params: { path: { id: one.id } } })),
  { stale, done: (_, one) => say(`“${one.name}” is mailed no more.`) },
)
const titled = (list: Shapes['Choice'][] | undefined, name: string | undefined) =>
  list?.find((one) => one.name === name)?.title ?? name
function told({ report, plan_name }: Order): string {
  const of = report.what === 'trends' ? `trends of ${report.days} days` : `newest run of ${plan_name}`
  const { templates, forms } = choices.data.value ?? {}
  return `${of}, ${titled(templates, report.template)}, as ${titled(forms, report.form)}`
}
function close() {
  form.value = null
  forget()
}
</script>

<template>
  <section aria-label="Reports on order" data-role="orders">
    <h2 class="mb-2 font-semibold">Reports on order</h2>
    <p class="mb-3 text-soft">Mailed at their time, again and again: a plan's newest run, or trends.</p>
    <Trouble :error="query.error.value" />
    <div class="panel text-sm">
      <p v-if="query.data.value && !orders.length && !form" class="px-4 py-3 text-soft">None yet.</p>
      <ul>
        <li
          v-for="one in orders"
          :key="one.id"
          class="flex flex-wrap items-baseline gap-2 border-b border-line px-4 py-2"
          :data-order="one.name"
        >
          <b>{{ one.name }}</b>
          <span class="min-w-0 flex-1 truncate text-soft" :title="told(one)"
            >{{ told(one) }}, to {{ one.names.join(', ') }}</span
          >
          <span class="text-soft">{{ one.next_at ? `next ${exact(one.next_at)}` : 'never again' }}</span>
          <button class="button py-0" @click="edit(one)">Change</button>
          <button class="button py-0" :aria-label="`Delete ${one.name}`" @click="drop(one)">Delete</button>
        </li>
      </ul>
      <div v-if="form" class="flex flex-col gap-3 p-4">
        <div class="flex flex-wrap items-end gap-3">
          <label class="flex-1"
            >Name <input v-model="form.name" class="field mt-1" name="order-name" required
          /></label>
          <label
            >Of
            <select v-model="form.trends" class="field mt-1" name="order-what">
              <option :value="false">a plan's newest run</option>
              <option :value="true">trends</option>
            </select></label
          >
          <label v-if="form.trends" class="w-28"
            >Days <input v-model.number="form.days" class="field mt-1" type="number" min="1" max="400"
          /></label>
          <label v-else class="flex-1"
            >Plan <PickOne v-model="form.plan" class="mt-1" :list="usePlanList" label="Plan"
          /></label>
        </div>
        <HowReported v-model:template="form.template" v-model:form="form.form" :trends="form.trends" />
        <div class="flex items-center gap-2">To <PeopleChips v-model="form.people" /></div>
        <Trouble :error="trouble" />
        <ScheduleForm :key="editing" :schedule="form.schedule" @save="save($event)" @close="close()" />
      </div>
      <p v-else class="p-3"><button class="button" @click="begin">Order a report</button></p>
    </div>
  </section>
</template>
