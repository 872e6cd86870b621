<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Ref } from 'vue'

import { api, ask, isLead } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useFlow } from '@/api/queries'
import { ON_FAILURE, ON_INTERRUPTED, PICTURES } from '@/shared/limits'
import PickOne from '@/shared/PickOne.vue'
import { useAct } from '@/shared/acting'
import { useFlowList } from '@/shared/lists'
import { say } from '@/shared/notes'
import { vHeld } from '@/shared/held'

/** What holds for every test that does not say otherwise. */
const query = useQuery({ queryKey: ['project'], queryFn: () => ask(api.GET('/api/project')) })
const value = (event: Event) => (event.target as HTMLInputElement | HTMLSelectElement).value

const { act: set } = useAct(
  (part: Partial<Shapes['ProjectOut']>) =>
    ask(api.PUT('/api/project', { body: { ...query.data.value!, ...part } })),
  { stale: [['project']], done: () => say('It holds for every test that does not say otherwise.') },
)

/** A flow that is chosen by its name; what holds is kept as its id. */
function chosenFlow(part: 'before' | 'after') {
  const flow = useFlow(computed(() => Number(query.data.value?.[part] || 0)))
  return computed({
    get: () => {
      const id = query.data.value?.[part]
      return id ? { id, name: flow.data.value?.flow.name ?? '…' } : null
    },
    set: (one) => void set({ [part]: one?.id ?? '' }),
  })
}
const before = chosenFlow('before')
const after = chosenFlow('after')
const flows = (words: Ref<string>) => useFlowList(words)
</script>

<template>
  <section v-if="query.data.value" data-role="project">
    <h2 class="mb-2 font-semibold">Every test</h2>
    <p class="mb-3 text-soft">
      Holds unless a test, a block or a sentence says otherwise. A run keeps what held when it began.
    </p>
    <fieldset class="panel grid grid-cols-2 gap-x-8 gap-y-2 px-4 py-3 text-sm" :disabled="!isLead()">
      <label class="flex items-center gap-2"
        >sentences wait up to
        <input
          v-held="query.data.value.limit"
          class="field w-20"
          type="number"
          min="0.1"
          max="600"
          step="0.1"
          aria-label="Seconds that every test waits"
          @change="set({ limit: Number(value($event)) })"
        />
        seconds</label
      >
      <label class="flex items-center gap-2"
        >before each row do
        <PickOne v-model="before" class="max-w-64" :list="flows" label="Flow before each row" none="nothing"
      /></label>
      <label class="flex items-center gap-2"
        >when one fails
        <select
          class="field w-auto"
          :value="query.data.value.on_failure"
          @change="set({ on_failure: value($event) as 'stop' })"
        >
          <option v-for="one in ON_FAILURE" :key="one.value" :value="one.value">{{ one.words }}</option>
        </select></label
      >
      <label class="flex items-center gap-2"
        >after each row, whatever happened, do
        <PickOne v-model="after" class="max-w-64" :list="flows" label="Flow after each row" none="nothing"
      /></label>
      <label class="flex items-center gap-2"
        >it is tried again
        <input
          v-held="query.data.value.retries"
          class="field w-16"
          type="number"
          min="0"
          max="5"
          @change="set({ retries: Number(value($event)) })"
        />
        times</label
      >
      <label class="flex items-center gap-2"
        >pictures are taken
        <select
          class="field w-auto"
          :value="query.data.value.pictures"
          @change="set({ pictures: value($event) as 'none' })"
        >
          <option v-for="one in PICTURES" :key="one.value" :value="one.value">{{ one.words }}</option>
        </select></label
      >
      <label class="flex items-center gap-2"
        >rows whose station died
        <select
          class="field w-auto"
          :value="query.data.value.on_interrupted"
          @change="set({ on_interrupted: value($event) as 'leave' })"
        >
          <option v-for="one in ON_INTERRUPTED" :key="one.value" :value="one.value">{{ one.words }}</option>
        </select></label
      >
    </fieldset>
  </section>
</template>
