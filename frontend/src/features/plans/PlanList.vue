<script setup lang="ts">
import { Ellipsis } from '@lucide/vue'
import { useDebounce } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import ListHead from '@/shared/ListHead.vue'
import ListTable from '@/shared/ListTable.vue'
import Modal from '@/shared/Modal.vue'
import Outcome from '@/shared/Outcome.vue'
import RowMenu from '@/shared/RowMenu.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { usePlanList } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'

import { tally } from './words'

type Brief = Shapes['PlanBrief']
const COLUMNS: Column[] = [
  { id: 'name', title: 'Name', class: 'max-w-72' },
  { id: 'takes', title: 'Takes', class: 'max-w-80 text-soft' },
  { id: 'last', title: 'Last run' },
  { id: 'came', title: 'What came of it', class: 'text-soft' },
  { id: 'when', title: 'When', class: 'whitespace-nowrap text-soft' },
  { id: 'acts', title: 'Actions', hidden: true, class: 'w-40 whitespace-nowrap text-right' },
]
const router = useRouter()
const words = ref('')
const query = useDebounce(words, 200)
const plans = usePlanList(query)
const making = ref(false)
const name = ref('')
const deleting = ref<Brief | null>(null)
const stale = [['plans']]
const path = (plan: Brief) => ({ params: { path: { id: plan.id } } })

const { act: make } = useAct(() => ask(api.POST('/api/plans', { body: { name: name.value } })), {
  stale,
  done: (made) => router.push(`/plans/${made.id}`),
})
const { act: start } = useAct(
  (plan: Brief) => ask(api.POST('/api/plans/{id}/runs', { ...path(plan), body: {} })),
  { stale, done: (made) => router.push(`/plan-runs/${made.run.id}`) },
)
const { act: copy } = useAct((plan: Brief) => ask(api.POST('/api/plans/{id}/copy', path(plan))), {
  stale,
  done: (made) => router.push(`/plans/${made.id}`),
})
const { act: drop } = useAct((plan: Brief) => ask(api.DELETE('/api/plans/{id}', path(plan))), {
  stale,
  done: (_, plan) => say(`“${plan.name}” was deleted. Its runs stay on record.`),
})
function remove() {
  const plan = deleting.value
  deleting.value = null
  if (plan) void drop(plan)
}
const entries = (plan: Brief) => [
  { words: 'Copy', act: () => copy(plan) },
  { words: 'Delete…', act: () => (deleting.value = plan), bad: true },
]
</script>

<template>
  <div class="page">
    <ListHead v-model:words="words" title="Plans" search="Search plans" hint="Search by name">
      <template #acts>
        <RouterLink class="button" to="/plans/calendar">Calendar</RouterLink>
        <button v-if="mayChange()" class="button button-main" @click="making = true">New plan</button>
      </template>
    </ListHead>
    <Trouble :error="plans.error.value" />
    <Empty v-if="plans.first.value && plans.rows.value.length === 0 && !query" title="No plan yet">
      <p>
        A plan says what runs together: which tests with which rows, in which browsers and environments. One
        run of it has one page and one verdict.
      </p>
      <button v-if="mayChange()" class="button button-main mt-4" @click="making = true">
        Make the first plan
      </button>
    </Empty>
    <p v-else-if="plans.first.value && plans.rows.value.length === 0" class="panel p-6 text-center text-soft">
      No plan fits. <button class="underline" @click="words = ''">Show all</button>
    </p>
    <ListTable v-else-if="plans.first.value" :list="plans" :columns="COLUMNS">
      <template #name="{ row }">
        <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/plans/${row.id}`">{{
          row.name
        }}</RouterLink>
      </template>
      <template #takes="{ row }">{{ row.picks || 'nothing yet' }}</template>
      <template #last="{ row }">
        <RouterLink v-if="row.last" :to="`/plan-runs/${row.last.id}`" class="hover:underline">
          <Outcome :outcome="row.last.state" />
        </RouterLink>
        <span v-else class="text-soft">never ran</span>
      </template>
      <template #came="{ row }">{{ row.last ? tally(row.last.casts) : '' }}</template>
      <template #when="{ row }"
        ><span :title="exact(row.last?.queued_at)">{{ ago(row.last?.queued_at) }}</span></template
      >
      <template #acts="{ row }">
        <template v-if="mayChange()">
          <button class="button py-0.5" :aria-label="`Start ${row.name}`" @click="start(row)">Start</button>
          <RowMenu :label="`Actions for ${row.name}`" :entries="entries(row)"
            ><Ellipsis :size="16"
          /></RowMenu>
        </template>
      </template>
    </ListTable>
    <Modal v-model:open="making" title="New plan">
      <form @submit.prevent="make()">
        <label
          >Its name
          <input
            v-model="name"
            class="field mt-1"
            name="name"
            required
            maxlength="200"
            placeholder="Every night"
        /></label>
        <div class="mt-4 flex justify-end gap-2">
          <button type="button" class="button" @click="making = false">Cancel</button>
          <button class="button button-main">Make it</button>
        </div>
      </form>
    </Modal>
    <Modal :open="deleting !== null" title="Delete this plan?" @update:open="deleting = null">
      <p>“{{ deleting?.name }}” goes with its versions. Its runs stay on record.</p>
      <div class="mt-4 flex justify-end gap-2">
        <button class="button" @click="deleting = null">Keep it</button>
        <button class="button button-bad" @click="remove">Delete the plan</button>
      </div>
    </Modal>
  </div>
</template>
