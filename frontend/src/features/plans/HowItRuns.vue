<script setup lang="ts">
import { computed } from 'vue'
import type { Ref } from 'vue'

import { useEnvironments, useFlow } from '@/api/queries'
import Needs from '@/shared/Needs.vue'
import PickOne from '@/shared/PickOne.vue'
import { vHeld } from '@/shared/held'
import { useFlowList } from '@/shared/lists'

import Choice from './Choice.vue'
import type { Body, Plan } from './usePlan'

/** How a plan runs: where, in which order, how many at once, and what a failure leads to. */
const props = defineProps<{ plan: Plan; fixed: boolean }>()
const emit = defineEmits<{ save: [parts: Partial<Body>] }>()
const environments = useEnvironments()
const body = computed(() => props.plan.plan)
const text = (event: Event) => (event.target as HTMLInputElement).value
const save = (parts: Partial<Body>) => emit('save', parts)
const whole = (event: Event) => Math.max(0, Math.round(Number(text(event))) || 0)

const ORDERS = { 'as listed': 'as listed', 'longest first': 'the longest first', random: 'random, by a seed' }
const FAILURES = {
  'go on': 'all others go on',
  'stop the test': 'its test stops',
  'stop everything': 'everything stops',
}
const KNOWN = { fails: 'the plan fails', passes: 'it passes, and says which' }
const OVERLAPS = {
  wait: 'the new one waits',
  skip: 'the new one is skipped',
  'cancel the old': 'the old one is cancelled',
}
const FLOWS = [
  { part: 'before', words: 'Before all of it' },
  { part: 'after', words: 'After all of it, whatever happened' },
  { part: 'before_row', words: 'Before each row' },
  { part: 'after_row', words: 'After each row, whatever happened' },
] as const

function chosenFlow(part: (typeof FLOWS)[number]['part']) {
  const flow = useFlow(computed(() => Number(body.value[part] || 0)))
  return computed({
    get: () => {
      const id = body.value[part]
      return id ? { id, name: flow.data.value?.flow.name ?? '…' } : null
    },
    set: (one) => save({ [part]: one ? String(one.id) : '' }),
  })
}
const flows = (words: Ref<string>) => useFlowList(words)
const around = FLOWS.map((one) => ({ ...one, chosen: chosenFlow(one.part) }))

function choose(id: number) {
  const now = body.value.environments ?? []
  save({ environments: now.includes(id) ? now.filter((one) => one !== id) : [...now, id] })
}
</script>

<template>
  <section class="panel h-fit p-4 text-sm" data-role="how">
    <h2 class="mb-2 font-semibold">How it runs</h2>
    <fieldset class="flex flex-col gap-2.5" :disabled="fixed">
      <div>
        <p class="mb-1 text-soft">Environments</p>
        <div class="flex flex-wrap gap-x-4 gap-y-1">
          <label
            v-for="one in environments.data.value?.environments"
            :key="one.id"
            class="flex items-center gap-1.5"
            ><input type="checkbox" :checked="body.environments?.includes(one.id)" @change="choose(one.id)" />
            {{ one.name }}</label
          >
          <span v-if="!body.environments?.length" class="text-soft">none ticked: that of each test</span>
        </div>
      </div>
      <Choice label="Order" :options="ORDERS" :value="body.order" @choose="save({ order: $event })" />
      <label v-if="body.order === 'random'" class="flex items-center justify-between gap-2"
        >Seed
        <input
          v-held="body.seed"
          class="field w-44"
          maxlength="40"
          placeholder="drawn each time"
          @change="save({ seed: text($event) })"
      /></label>
      <label class="flex items-center justify-between gap-2"
        >Casts at once
        <input
          v-held="body.at_once || ''"
          class="field w-44"
          type="number"
          min="0"
          max="64"
          placeholder="as many as fit"
          aria-label="Casts at once"
          @change="save({ at_once: whole($event) })"
      /></label>
      <Choice
        label="When a row fails"
        :options="FAILURES"
        :value="body.on_failure"
        @choose="save({ on_failure: $event })"
      />
      <Choice
        label="All that fails is known"
        title="Open defects were raised for the same failures"
        :options="KNOWN"
        :value="body.known"
        @choose="save({ known: $event })"
      />
      <label class="flex items-center justify-between gap-2"
        >Failed rows are played again
        <input
          v-held="body.retries"
          class="field w-20"
          type="number"
          min="0"
          max="3"
          aria-label="How often failed rows are played again"
          @change="save({ retries: whole($event) })"
      /></label>
      <p v-if="body.retries" class="-mt-1.5 text-xs text-soft">
        Both results are kept; what passes only then is unsteady, never plainly passed.
      </p>
      <label class="flex items-center justify-between gap-2"
        >Time limit, minutes
        <input
          v-held="body.minutes || ''"
          class="field w-20"
          type="number"
          min="0"
          placeholder="none"
          aria-label="Time limit in minutes"
          @change="save({ minutes: whole($event) })"
      /></label>
      <label class="flex items-center justify-between gap-2"
        >Share beside other plans
        <input
          v-held="body.weight"
          class="field w-20"
          type="number"
          min="1"
          max="10"
          aria-label="Share beside other plans"
          title="A plan with 3 gets three times as much of the stations as one with 1"
          @change="save({ weight: Math.max(1, whole($event)) })"
      /></label>
      <label class="flex items-center justify-between gap-2"
        >Stations labelled
        <Needs
          class="w-44"
          :needs="body.needs ?? []"
          :fixed="fixed"
          label="Labels that stations must have"
          @save="save({ needs: $event })"
      /></label>
      <label v-for="one in around" :key="one.part" class="block">
        <span class="mb-1 block text-soft">{{ one.words }}</span>
        <PickOne
          v-model="one.chosen.value"
          :list="flows"
          :label="`Flow: ${one.words}`"
          :none="one.part.endsWith('row') ? 'as the project says' : 'nothing'"
        />
      </label>
      <Choice
        label="If it is still running"
        title="When it is to start while an earlier run of it is not over"
        :options="OVERLAPS"
        :value="body.overlap"
        @choose="save({ overlap: $event })"
      />
    </fieldset>
  </section>
</template>
