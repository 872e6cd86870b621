<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'

import { api, ask, isLead } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useFlows } from '@/api/queries'
import { ON_FAILURE, ON_INTERRUPTED, PICTURES } from '@/shared/limits'
import { complain, say } from '@/shared/notes'
import { vHeld } from '@/shared/held'

/** What holds for every test that does not say otherwise. */
const query = useQuery({ queryKey: ['project'], queryFn: () => ask(api.GET('/api/project')) })
const flows = useFlows()
const value = (event: Event) => (event.target as HTMLInputElement | HTMLSelectElement).value

async function set(part: Partial<Shapes['ProjectOut']>) {
  try {
    await ask(api.PUT('/api/project', { body: { ...query.data.value!, ...part } }))
    say('It holds for every test that does not say otherwise.')
  } catch (error) {
    complain(error)
  }
  await query.refetch()
}
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
        <select
          class="field w-auto"
          :value="query.data.value.before"
          aria-label="Flow before each row"
          @change="set({ before: value($event) })"
        >
          <option value="">nothing</option>
          <option v-for="one in flows.data.value?.flows" :key="one.flow.id" :value="one.flow.id">
            {{ one.flow.name }}
          </option>
        </select></label
      >
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
        <select
          class="field w-auto"
          :value="query.data.value.after"
          aria-label="Flow after each row"
          @change="set({ after: value($event) })"
        >
          <option value="">nothing</option>
          <option v-for="one in flows.data.value?.flows" :key="one.flow.id" :value="one.flow.id">
            {{ one.flow.name }}
          </option>
        </select></label
      >
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
