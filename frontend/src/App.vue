<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { session } from '@/api/client'
import { followEvents } from '@/api/events'
import Conflict from '@/shared/Conflict.vue'
import Notes from '@/shared/Notes.vue'
import Offline from '@/shared/Offline.vue'
import Question from '@/shared/Question.vue'
import TopBar from '@/shared/TopBar.vue'
import { tidyDrafts } from '@/shared/drafts'

const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
let stop: (() => void) | null = null
tidyDrafts()

watch(
  () => session.me,
  (me, before) => {
    stop?.()
    stop = me ? followEvents(queries) : null
    if (!me && before && !route.meta.open) {
      queries.clear()
      void router.push({ path: '/sign-in', query: { next: route.fullPath } })
    }
  },
  { immediate: true },
)
</script>

<template>
  <div class="flex h-full flex-col">
    <TopBar v-if="!route.meta.open" />
    <Offline />
    <main class="min-h-0 flex-1 overflow-auto">
      <RouterView :key="route.path" />
    </main>
    <Conflict />
    <Question />
    <Notes />
  </div>
</template>
