<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import StillView from '@/features/pages/StillView.vue'
import WriteFrom from '@/features/pages/WriteFrom.vue'
import { mayChange } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import type { Named } from '@/shared/lists'

/** The pages as a run saw them: each is a still that can be picked from. */
const props = defineProps<{ run: number; test: Named | null }>()
const query = useQuery({
  queryKey: computed(() => ['run pages', props.run]),
  queryFn: () => ask(api.GET('/api/runs/{id}/pages', { params: { path: { id: props.run } } })),
})
const pages = computed(() => query.data.value?.pages ?? [])
const chosen = ref(0)
const saved = computed(() => chosen.value || pages.value.at(-1)?.saved || 0)
</script>

<template>
  <Empty v-if="query.data.value && pages.length === 0" title="This run saved no page">
    Pages are saved with the pictures of a run; look at “Limits” in the workbench.
  </Empty>
  <div v-else class="panel grid min-h-0 grid-cols-[14rem_minmax(0,1fr)] overflow-hidden">
    <ol class="min-h-0 overflow-auto border-r border-line" aria-label="Saved pages">
      <li v-for="one in pages" :key="one.saved">
        <button
          class="w-full border-b border-line px-3 py-2 text-left hover:bg-sunk"
          :class="one.saved === saved && 'bg-sunk font-semibold'"
          @click="chosen = one.saved"
        >
          {{ one.page || '(no title)' }}
        </button>
      </li>
    </ol>
    <div v-if="saved" class="min-h-0">
      <WriteFrom v-if="mayChange()" :key="saved" :saved="saved" :test="test" @close="chosen = 0" />
      <StillView v-else :saved="saved" />
    </div>
  </div>
</template>
