<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import { useEnvironments, useTables } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import ListTable from '@/shared/ListTable.vue'
import Trouble from '@/shared/Trouble.vue'
import { complain, say } from '@/shared/notes'
import type { Column } from '@/shared/lists'
import { ago } from '@/shared/times'

/** Tables that several tests share. */
const router = useRouter()
const query = useTables()
const environments = useEnvironments()
const words = ref('')
const name = ref('')
const shown = computed(() =>
  (query.data.value?.tables ?? []).filter((one) =>
    one.name.toLowerCase().includes(words.value.trim().toLowerCase()),
  ),
)

async function create() {
  try {
    const environment = environments.data.value!.environments[0]!.id
    const made = await ask(api.POST('/api/tests', { body: { name: name.value, environment, kind: 'table' } }))
    await router.push(`/data/${made.id}`)
  } catch (error) {
    complain(error)
  }
}
async function remove(id: number, called: string) {
  try {
    await ask(api.DELETE('/api/tables/{id}', { params: { path: { id } } }))
    say(`The table “${called}” was deleted.`)
    await query.refetch()
  } catch (error) {
    complain(error)
  }
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
    <div class="mb-4 flex items-center gap-3">
      <h1 class="heading mr-auto">Data</h1>
      <input
        v-model="words"
        class="field w-56"
        type="search"
        placeholder="Search tables"
        aria-label="Search tables"
      />
      <form v-if="mayChange()" class="flex gap-2" @submit.prevent="create">
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
    </div>
    <Trouble :error="query.error.value" />
    <Empty v-if="query.data.value && query.data.value.tables.length === 0" title="No shared tables yet">
      Rows that one test uses are kept with that test. To use them in several, share them there, or make a
      table here and choose it in the tests.
    </Empty>
    <ListTable v-else-if="shown.length" :rows="shown" :columns="COLUMNS" role="shared-table">
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
          @click="remove(row.id, row.name)"
        >
          Delete
        </button>
      </template>
    </ListTable>
    <p v-else-if="query.data.value" class="text-soft">No table has these letters in its name.</p>
  </div>
</template>
