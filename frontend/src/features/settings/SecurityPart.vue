<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { ref } from 'vue'

import { api, ask } from '@/api/client'
import ListTable from '@/shared/ListTable.vue'
import Trouble from '@/shared/Trouble.vue'
import { usePaged } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { exact } from '@/shared/times'

/** Who signed in, was refused, changed roles and secrets, or took something out: for leads. */
const words = ref('')
const asked = refDebounced(words, 250)
const events = usePaged(
  ['security-events', asked],
  (after) => ask(api.GET('/api/security-events', { params: { query: { q: asked.value, after } } })),
  (page) => page.events,
)
const COLUMNS: Column[] = [
  { id: 'when', title: 'When', class: 'whitespace-nowrap' },
  { id: 'what', title: 'What', class: 'whitespace-nowrap' },
  { id: 'who', title: 'Who' },
  { id: 'about', title: 'About', class: 'wrap-anywhere' },
  { id: 'from', title: 'From' },
]
</script>

<template>
  <section data-role="security">
    <div class="mb-2 flex items-center gap-3">
      <h2 class="font-semibold">Security events</h2>
      <input
        v-model="words"
        class="field ml-auto max-w-64"
        type="search"
        placeholder="Search events"
        aria-label="Search security events"
      />
      <button class="button" @click="events.again()">Look again</button>
    </div>
    <Trouble :error="events.error.value" />
    <p v-if="!events.first.value" class="panel p-3 text-soft">Looking…</p>
    <p v-else-if="!events.rows.value.length" class="panel p-3 text-soft">
      {{ asked ? 'No event holds these words.' : 'Nothing has happened yet.' }}
    </p>
    <ListTable v-else class="max-h-96" :list="events" :columns="COLUMNS">
      <template #when="{ row }">{{ exact(row.at) }}</template>
      <template #what="{ row }">{{ row.what }}</template>
      <template #who="{ row }">{{ row.who }}</template>
      <template #about="{ row }">{{ row.about }}</template>
      <template #from="{ row }">{{ row.origin }}</template>
    </ListTable>
  </section>
</template>
