<script setup lang="ts">
import { Ellipsis } from '@lucide/vue'
import { useDebounce } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import LabelFilter from '@/shared/LabelFilter.vue'
import ListHead from '@/shared/ListHead.vue'
import ListTable from '@/shared/ListTable.vue'
import Modal from '@/shared/Modal.vue'
import Outcome from '@/shared/Outcome.vue'
import RowMenu from '@/shared/RowMenu.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { useTestList } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'

import NewTest from './NewTest.vue'

type Brief = Shapes['TestBrief']

const COLUMNS: Column[] = [
  { id: 'name', title: 'Name', order: 'name', class: 'max-w-96' },
  { id: 'last', title: 'Last run', order: 'outcome' },
  { id: 'sentences', title: 'Sentences' },
  { id: 'rows', title: 'Rows' },
  { id: 'environment', title: 'Environment' },
  { id: 'changed', title: 'Changed', order: 'changed', falling: true, class: 'whitespace-nowrap text-soft' },
  { id: 'acts', title: 'Actions', hidden: true, class: 'w-10' },
]

const route = useRoute()
const router = useRouter()
const words = ref('')
const query = useDebounce(words, 200)
const order = ref('changed')
const outcome = ref(String(route.query.outcome ?? ''))
const label = ref(String(route.query.label ?? ''))
const tests = useTestList(query, outcome, order, label)
const making = ref(false)
const deleting = ref<Brief | null>(null)

watch(
  () => route.query.new,
  (wanted) => {
    if (wanted && mayChange()) making.value = true
  },
  { immediate: true },
)
watch(making, (open) => {
  if (!open && route.query.new) void router.replace('/tests')
})

/** The outcomes that last runs have; what is chosen stays, also when no test has it any more. */
const outcomes = computed(() => {
  const counted = Object.keys(tests.first.value?.outcomes ?? {})
  return [...new Set([...counted, ...(outcome.value ? [outcome.value] : [])])].sort()
})
const filtered = computed(() => Boolean(query.value.trim() || outcome.value || label.value))

const stale = [['tests']]
const { act: copy } = useAct(
  (test: Brief) =>
    ask(
      api.POST('/api/tests/{id}/copy', {
        params: { path: { id: test.id } },
        body: { name: `${test.name} (copy ${Date.now() % 10_000})` },
      }),
    ),
  {
    stale,
    done: (made, test) => {
      say(`“${test.name}” was copied.`)
      return router.push(`/tests/${made.id}`)
    },
  },
)

const removing = useAct(
  (test: Brief) => ask(api.DELETE('/api/tests/{id}', { params: { path: { id: test.id } } })),
  { stale, done: (_, test) => say(`“${test.name}” was deleted. Its runs stay on record.`) },
)
function remove() {
  const test = deleting.value
  deleting.value = null
  if (test) void removing.act(test)
}

/** What can be done with a test. */
const entries = (test: Brief) => [
  { words: 'Copy', act: () => copy(test) },
  { words: 'Delete…', act: () => (deleting.value = test), bad: true },
]
</script>

<template>
  <div class="page">
    <ListHead v-model:words="words" title="Tests" search="Search tests" hint="Search by name">
      <label class="flex items-center gap-2 text-sm text-soft">
        Last run
        <select v-model="outcome" class="field w-auto">
          <option value="">any</option>
          <option v-for="state in outcomes" :key="state">{{ state }}</option>
        </select>
      </label>
      <LabelFilter v-model="label" />
      <template #acts>
        <RouterLink class="button" to="/blind-spots">Blind spots</RouterLink>
        <button v-if="mayChange()" class="button button-main" @click="making = true">New test</button>
      </template>
    </ListHead>
    <Trouble :error="tests.error.value" />
    <Empty v-if="tests.first.value && tests.rows.value.length === 0 && !filtered" title="No test yet">
      <p>
        A test is what you do on a page, said in sentences. Name one, and do it on the stage: Lantern writes
        it down.
      </p>
      <button v-if="mayChange()" class="button button-main mt-4" @click="making = true">
        Record the first test
      </button>
    </Empty>
    <p v-else-if="tests.first.value && tests.rows.value.length === 0" class="panel p-6 text-center text-soft">
      No test fits.
      <button class="underline" @click="((words = ''), (outcome = ''), (label = ''))">Show all</button>
    </p>
    <ListTable v-else-if="tests.first.value" v-model:order="order" :list="tests" :columns="COLUMNS">
      <template #name="{ row }">
        <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/tests/${row.id}`">{{
          row.name
        }}</RouterLink>
        <button
          v-for="one in row.labels"
          :key="one"
          class="chip ml-1.5 text-soft hover:border-ink"
          :title="`Only tests with the label ${one}`"
          @click="label = one"
        >
          {{ one }}
        </button>
      </template>
      <template #last="{ row }">
        <RouterLink v-if="row.last_run" :to="`/runs/${row.last_run.id}`" class="hover:underline">
          <Outcome :outcome="row.last_run.state" />
        </RouterLink>
        <span v-else class="text-soft">never ran</span>
      </template>
      <template #sentences="{ row }">{{ row.steps }}</template>
      <template #rows="{ row }">{{ row.rows || '' }}</template>
      <template #environment="{ row }">{{ row.environment }}</template>
      <template #changed="{ row }"
        ><span :title="exact(row.changed_at)">{{ ago(row.changed_at) }}</span></template
      >
      <template #acts="{ row }">
        <RowMenu v-if="mayChange()" :label="`Actions for ${row.name}`" :entries="entries(row)"
          ><Ellipsis :size="16"
        /></RowMenu>
      </template>
    </ListTable>
    <NewTest v-model:open="making" />
    <Modal :open="deleting !== null" title="Delete this test?" @update:open="deleting = null">
      <p>
        “{{ deleting?.name }}” with its {{ deleting?.steps }} sentences and {{ deleting?.rows }} rows goes for
        good.
      </p>
      <div class="mt-4 flex justify-end gap-2">
        <button class="button" @click="deleting = null">Keep it</button>
        <button class="button button-bad" @click="remove">Delete the test</button>
      </div>
    </Modal>
  </div>
</template>
