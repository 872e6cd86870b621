<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** How many stages a station keeps open, and for how long a failing row is offered. For leads. */
const queries = useQueryClient()
const query = useQuery({
  queryKey: ['project', 'rehearsing'],
  queryFn: () => ask(api.GET('/api/rehearsing')),
})
type Rules = Shapes['RehearsingOut']
/** What is typed and not saved yet: news from the server does not wipe it out. */
const edited = ref<Rules | null>(null)
const rules = computed<Rules>(() => edited.value ?? query.data.value ?? { stages: 1, offered: 0 })
function set(part: keyof Rules, event: Event) {
  edited.value = { ...rules.value, [part]: Number((event.target as HTMLInputElement).value) }
}
const { act: save, busy } = useAct(() => ask(api.PUT('/api/rehearsing', { body: rules.value })), {
  done: (now) => {
    queries.setQueryData(['project', 'rehearsing'], now)
    edited.value = null
    say('Saved.')
  },
})
</script>

<template>
  <section aria-label="Rehearsals" data-role="rehearsing-part">
    <h2 class="mb-2 font-semibold">Rehearsals</h2>
    <form class="flex flex-wrap items-end gap-4 text-sm" @submit.prevent="save()">
      <label
        >Stages that a station keeps open at once
        <input
          :value="rules.stages"
          class="field mt-1"
          type="number"
          min="1"
          max="200"
          name="stages"
          required
          @input="set('stages', $event)"
        />
      </label>
      <label
        >Seconds for which a failing row is offered to its author who watches it (0: not)
        <input
          :value="rules.offered"
          class="field mt-1"
          type="number"
          min="0"
          max="120"
          name="offered"
          required
          @input="set('offered', $event)"
        />
      </label>
      <button class="button button-main" :disabled="busy">Save</button>
    </form>
    <p class="mt-2 text-sm text-soft">
      A rehearsal that is held keeps its stage, for up to half an hour after its page is closed.
    </p>
  </section>
</template>
