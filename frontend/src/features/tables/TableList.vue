<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import { useEnvironments, useTables } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'
import { complain, say } from '@/shared/notes'
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
    <table v-else-if="shown.length" class="panel list-table">
      <thead>
        <tr>
          <th>Table</th>
          <th>Rows</th>
          <th>Columns</th>
          <th>Used by</th>
          <th>Changed</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in shown" :key="one.id" data-role="shared-table">
          <td>
            <RouterLink class="font-medium hover:underline" :to="`/data/${one.id}`">{{
              one.name
            }}</RouterLink>
          </td>
          <td>{{ one.rows }}</td>
          <td class="max-w-64 truncate text-soft">{{ one.columns.join(', ') }}</td>
          <td>{{ one.used_by.join(', ') || 'no test' }}</td>
          <td class="text-soft">{{ ago(one.changed_at) }}</td>
          <td>
            <button
              v-if="mayChange()"
              class="button-bare"
              :aria-label="`Delete ${one.name}`"
              @click="remove(one.id, one.name)"
            >
              Delete
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="query.data.value" class="text-soft">No table has these letters in its name.</p>
  </div>
</template>
