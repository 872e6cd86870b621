<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** How many stages a station keeps open, and for how long a failing row is offered. For leads. */
const queries = useQueryClient()
const query = useQuery({
  queryKey: ['project', 'rehearsing'],
  queryFn: () => ask(api.GET('/api/rehearsing')),
})
const stages = ref(0)
const offered = ref(0)
watch(
  () => query.data.value,
  (now) => {
    if (!now) return
    stages.value = now.stages
    offered.value = now.offered
  },
  { immediate: true },
)
const { act: save, busy } = useAct(
  () => ask(api.PUT('/api/rehearsing', { body: { stages: stages.value, offered: offered.value } })),
  {
    done: (now) => {
      queries.setQueryData(['project', 'rehearsing'], now)
      say('Saved.')
    },
  },
)
</script>

<template>
  <section class="mb-8" aria-label="Rehearsals" data-role="rehearsing-part">
    <h2 class="mb-2 font-semibold">Rehearsals</h2>
    <form class="flex flex-wrap items-end gap-4 text-sm" @submit.prevent="save()">
      <label
        >Stages that a station keeps open at once
        <input
          v-model.number="stages"
          class="field mt-1"
          type="number"
          min="1"
          max="200"
          name="stages"
          required
        />
      </label>
      <label
        >Seconds for which a failing row is offered to its author who watches it (0: not)
        <input
          v-model.number="offered"
          class="field mt-1"
          type="number"
          min="0"
          max="120"
          name="offered"
          required
        />
      </label>
      <button class="button button-main" :disabled="busy">Save</button>
    </form>
    <p class="mt-2 text-sm text-soft">
      A rehearsal that is held keeps its stage, for up to half an hour after its page is closed.
    </p>
  </section>
</template>
