<script setup lang="ts">
import { useDebounce } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import ListHead from '@/shared/ListHead.vue'
import ListTable from '@/shared/ListTable.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { useTableList } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { say } from '@/shared/notes'
import { asked } from '@/shared/questions'
import { ago } from '@/shared/times'

/** Tables that several tests share. */
type Table = Shapes['SharedBrief']
const router = useRouter()
const environments = useEnvironments()
const words = ref('')
const query = useDebounce(words, 200)
const tables = useTableList(query)
const name = ref('')
const stale = [['tables']]

const { act: create } = useAct(
  () => {
    const environment = environments.data.value!.environments[0]!.id
    return ask(api.POST('/api/tests', { body: { name: name.value, environment, kind: 'table' } }))
  },
  { stale, done: (made) => router.push(`/data/${made.id}`) },
)
const removing = useAct(
  ({ id }: Table) => ask(api.DELETE('/api/tables/{id}', { params: { path: { id } } })),
  { stale, done: (_, { name: called }) => say(`The table “${called}” was deleted.`) },
)
async function remove(table: Table) {
  // One that is used is not deleted anyway, which is what is told then.
  const sure =
    table.used_by.length ||
    (await asked({
      title: `Delete “${table.name}”?`,
      text: `Its ${table.rows} ${table.rows === 1 ? 'row goes' : 'rows go'} for good.`,
      yes: 'Delete the table',
      no: 'Keep it',
    }))
  if (sure) await removing.act(table)
}

const COLUMNS: Column[] = [
  { id: 'table', title: 'Table' },
  { id: 'rows', title: 'Rows' },
  { id: 'columns', title: 'Columns', class: 'max-w-64 truncate text-soft' },
  { id: 'used', title: 'Used by' },
  { id: 'changed', title: 'Changed', class: 'text-soft' },
  { id: 'acts', title: 'Actions', hidden: true },
]
</script>

<template>
  <div class="page">
    <ListHead v-model:words="words" title="Data" search="Search tables">
      <template v-if="mayChange()" #acts>
        <form class="flex gap-2" @submit.prevent="create()">
          <input
            v-model="name"
            class="field w-44"
            name="table"
            placeholder="name"
            aria-label="Name of the table"
            required
          />
          <button class="button button-main">New table</button>
        </form>
      </template>
    </ListHead>
    <Trouble :error="tables.error.value" />
    <Empty v-if="tables.first.value && !tables.rows.value.length && !query" title="No shared tables yet">
      Rows that one test uses are kept with that test. To use them in several, share them there, or make a
      table here and choose it in the tests.
    </Empty>
    <ListTable v-else-if="tables.rows.value.length" :list="tables" :columns="COLUMNS" role="shared-table">
      <template #table="{ row }">
        <RouterLink class="font-medium hover:underline" :to="`/data/${row.id}`">{{ row.name }}</RouterLink>
      </template>
      <template #rows="{ row }">{{ row.rows }}</template>
      <template #columns="{ row }">{{ row.columns.join(', ') }}</template>
      <template #used="{ row }">{{ row.used_by.join(', ') || 'no test' }}</template>
      <template #changed="{ row }">{{ ago(row.changed_at) }}</template>
      <template #acts="{ row }">
        <button
          v-if="mayChange()"
          class="button-bare"
          :aria-label="`Delete ${row.name}`"
          @click="remove(row)"
        >
          Delete
        </button>
      </template>
    </ListTable>
    <p v-else-if="tables.first.value" class="panel p-6 text-center text-soft">
      No table has these letters in its name.
    </p>
  </div>
</template>
