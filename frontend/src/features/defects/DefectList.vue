<script setup lang="ts">
import { useDebounce, useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api, ask, session } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import ListHead from '@/shared/ListHead.vue'
import ListTable from '@/shared/ListTable.vue'
import SavedFilters from '@/shared/SavedFilters.vue'
import Trouble from '@/shared/Trouble.vue'
import { usePaged } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { ago, exact } from '@/shared/times'

import DefectBoard from './DefectBoard.vue'

const state = ref('')
const severity = ref('')
const mine = ref(false)
const board = useLocalStorage('lantern-defect-board', false)
const words = ref('')
const query = useDebounce(words, 200)
const catalogue = useCatalogue()
const order = ref('newest')
const defects = usePaged(
  ['defects', state, severity, query, order, mine],
  (after) =>
    ask(
      api.GET('/api/defects', {
        params: {
          query: {
            state: state.value,
            severity: severity.value,
            q: query.value,
            order: order.value,
            after,
            owner: mine.value ? (session.me?.account.id ?? 0) : 0,
          },
        },
      }),
    ),
  (page) => page.defects,
)
const now = computed(() => ({
  q: words.value,
  state: state.value,
  severity: severity.value,
  mine: mine.value ? 'yes' : '',
}))
function choose(values: Record<string, string>) {
  words.value = values.q ?? ''
  state.value = values.state ?? ''
  severity.value = values.severity ?? ''
  mine.value = values.mine === 'yes'
}
const COLUMNS: Column[] = [
  { id: 'number', title: 'No.', order: 'newest', falling: true, class: 'text-soft' },
  { id: 'title', title: 'Title', class: 'max-w-96' },
  { id: 'state', title: 'State', class: 'whitespace-nowrap' },
  { id: 'severity', title: 'Severity', order: 'severity' },
  { id: 'priority', title: 'Priority', order: 'priority' },
  { id: 'owner', title: 'Has it', class: 'whitespace-nowrap' },
  { id: 'seen', title: 'Seen', class: 'whitespace-nowrap text-soft' },
  { id: 'release', title: 'Release' },
  { id: 'by', title: 'By', class: 'whitespace-nowrap text-soft' },
  { id: 'changed', title: 'Changed', order: 'changed', falling: true, class: 'whitespace-nowrap text-soft' },
]
</script>

<template>
  <div class="page">
    <ListHead v-model:words="words" title="Defects" search="Search defects" hint="Search by title, or what trackers call it">
      <label class="flex items-center gap-2 text-sm text-soft">
        State
        <select v-model="state" class="field w-auto">
          <option value="">any</option>
          <option v-for="one in catalogue.data.value?.defect_states" :key="one">{{ one }}</option>
        </select>
      </label>
      <label class="flex items-center gap-2 text-sm text-soft">
        Severity
        <select v-model="severity" class="field w-auto">
          <option value="">any</option>
          <option v-for="one in catalogue.data.value?.severities" :key="one">{{ one }}</option>
        </select>
      </label>
      <label class="flex items-center gap-1.5 text-sm text-soft"
        ><input v-model="mine" type="checkbox" /> that I have</label
      >
      <template #acts>
        <button class="button" :aria-pressed="board" @click="board = !board">
          {{ board ? 'As a list' : 'As a board' }}
        </button>
      </template>
    </ListHead>
    <SavedFilters view="defects" :now="now" @choose="choose" />
    <Trouble :error="defects.error.value" />
    <Empty
      v-if="defects.first.value && defects.rows.value.length === 0"
      :title="state || severity || words || mine ? 'No defect fits' : 'No defect yet'"
    >
      Defects are raised from a failed sentence of a run, with everything filled in that Lantern knows.
    </Empty>
    <DefectBoard v-else-if="defects.first.value && board" :defects="defects" />
    <ListTable v-else-if="defects.first.value" v-model:order="order" :list="defects" :columns="COLUMNS">
      <template #number="{ row }">{{ row.id }}</template>
      <template #title="{ row }">
        <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/defects/${row.id}`">{{
          row.title
        }}</RouterLink>
        <span v-if="row.handed" class="ml-2 text-xs whitespace-nowrap text-soft">{{ row.handed }}</span>
      </template>
      <template #state="{ row }">{{ row.state }}</template>
      <template #severity="{ row }">{{ row.severity }}</template>
      <template #priority="{ row }">{{ row.priority }}</template>
      <template #owner="{ row }">{{ row.owner }}</template>
      <template #seen="{ row }">{{ row.seen === 1 ? 'once' : `${row.seen} times` }}</template>
      <template #release="{ row }">{{ row.release }}</template>
      <template #by="{ row }">{{ row.author }}</template>
      <template #changed="{ row }"
        ><span :title="exact(row.changed_at)">{{ ago(row.changed_at) }}</span></template
      >
    </ListTable>
  </div>
</template>
