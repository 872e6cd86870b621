<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { ref } from 'vue'

import { api, ask } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'
import { ago, exact } from '@/shared/times'

const state = ref('')
const severity = ref('')
const words = ref('')
const query = useDebounce(words, 200)
const catalogue = useCatalogue()
const defects = useQuery({
  queryKey: ['defects', state, severity, query],
  queryFn: () =>
    ask(
      api.GET('/api/defects', {
        params: { query: { state: state.value, severity: severity.value, q: query.value } },
      }),
    ),
})
</script>

<template>
  <div class="page">
    <div class="mb-4 flex items-center gap-3">
      <h1 class="heading">Defects</h1>
      <input
        v-model="words"
        class="field ml-4 max-w-64"
        type="search"
        placeholder="Search by title"
        aria-label="Search defects"
      />
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
    </div>
    <Trouble :error="defects.error.value" />
    <Empty
      v-if="defects.data.value?.defects.length === 0"
      :title="state || severity || words ? 'No defect fits' : 'No defect yet'"
    >
      Defects are raised from a failed sentence of a run, with everything filled in that Lantern knows.
    </Empty>
    <div v-else-if="defects.data.value" class="panel">
      <table class="list-table">
        <thead>
          <tr>
            <th>No.</th>
            <th>Title</th>
            <th>State</th>
            <th>Severity</th>
            <th>Seen</th>
            <th>Release</th>
            <th>By</th>
            <th>Changed</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="defect in defects.data.value.defects" :key="defect.id">
            <td class="text-soft">{{ defect.id }}</td>
            <td class="max-w-96">
              <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/defects/${defect.id}`">{{
                defect.title
              }}</RouterLink>
            </td>
            <td class="whitespace-nowrap">{{ defect.state }}</td>
            <td>{{ defect.severity }}</td>
            <td class="whitespace-nowrap text-soft">
              {{ defect.seen === 1 ? 'once' : `${defect.seen} times` }}
            </td>
            <td>{{ defect.release }}</td>
            <td class="whitespace-nowrap text-soft">{{ defect.author }}</td>
            <td class="whitespace-nowrap text-soft" :title="exact(defect.changed_at)">
              {{ ago(defect.changed_at) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
