<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'
import { exact } from '@/shared/times'

/** Who signed in, was refused, changed roles and secrets, or took something out: for leads. */
const words = ref('')
const asked = refDebounced(words, 250)
const query = useInfiniteQuery({
  queryKey: computed(() => ['security-events', asked.value]),
  queryFn: ({ pageParam }) =>
    ask(
      api.GET('/api/security-events', {
        params: { query: { q: asked.value, ...(pageParam ? { before: pageParam } : {}) } },
      }),
    ),
  initialPageParam: 0,
  placeholderData: keepPreviousData,
  getNextPageParam: (last) => (last.more ? last.events.at(-1)?.id : undefined),
})
const events = computed(() => query.data.value?.pages.flatMap((page) => page.events) ?? [])
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
      <button class="button" @click="query.refetch()">Look again</button>
    </div>
    <Trouble :error="query.error.value" />
    <div class="panel max-h-96 overflow-auto">
      <table class="list-table">
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
            <th>Who</th>
            <th>About</th>
            <th>From</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in events" :key="one.id">
            <td class="whitespace-nowrap">{{ exact(one.at) }}</td>
            <td class="whitespace-nowrap">{{ one.what }}</td>
            <td>{{ one.who }}</td>
            <td class="wrap-anywhere">{{ one.about }}</td>
            <td>{{ one.origin }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="query.isPending.value" class="p-3 text-soft">Looking…</p>
      <p v-else-if="!events.length" class="p-3 text-soft">
        {{ asked ? 'No event holds these words.' : 'Nothing has happened yet.' }}
      </p>
      <button v-if="query.hasNextPage.value" class="button m-3" @click="query.fetchNextPage()">
        Older events
      </button>
    </div>
  </section>
</template>
