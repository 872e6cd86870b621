<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'
import { ON_FAILURE, ON_INTERRUPTED, PICTURES } from '@/shared/limits'
import Needs from '@/shared/Needs.vue'
import PickOne from '@/shared/PickOne.vue'
import { useAct } from '@/shared/acting'
import { vHeld } from '@/shared/held'
import { usePeople } from '@/shared/lists'

import LeaveToProject from './LeaveToProject.vue'
import type { Edits } from '@/features/editing/useEdits'

/** Time limit, what to do on failure and pictures: of the test, and of the chosen sentence. */
const props = defineProps<{ test: Test; edits: Edits; fixed: boolean; chosen: string[] }>()
const step = computed(() => props.test.steps.find((one) => one.id === props.chosen.at(-1)))
const isBlock = computed(
  () =>
    step.value && props.test.steps[props.test.steps.indexOf(step.value) + 1]?.depth === step.value.depth + 1,
)
const value = (event: Event) => (event.target as HTMLInputElement | HTMLSelectElement).value
/** Whether the test leaves a setting to the project, and how to let it. */
const inherits = (name: string) => props.test.settings.inherits.includes(name)
const set = (fields: object) => props.edits.edit({ do: 'set settings', fields })
const setStep = (fields: object) =>
  step.value && props.edits.edit({ do: 'change', step: step.value.id, fields })
/** Who is told of the test where a plan says so. */
const giving = useAct(
  (owner: number) =>
    ask(api.PATCH('/api/tests/{id}', { params: { path: { id: props.test.id } }, body: { owner } })),
  { stale: () => [['test', props.test.id]] },
)
const owner = computed({
  get: () => props.test.owner,
  set: (one) => one && void giving.act(one.id),
})
</script>

<template>
  <div class="grid h-full grid-cols-2 gap-6 overflow-auto px-4 py-3 text-sm">
    <fieldset :disabled="fixed">
      <legend class="mb-2 font-semibold">Every sentence of this test</legend>
      <label class="mb-2 flex items-center gap-2">
        waits up to
        <input
          v-held="test.settings.limit"
          class="field w-20"
          type="number"
          min="0.1"
          max="600"
          step="0.1"
          name="limit"
          @change="set({ limit: Number(value($event)) })"
        />
        seconds
        <LeaveToProject what="limit" :left="inherits('limit')" :fixed="fixed" @leave="set({ limit: null })" />
      </label>
      <label class="mb-2 flex items-center gap-2">
        when it fails
        <select
          class="field w-auto"
          :value="test.settings.on_failure"
          @change="set({ on_failure: value($event) })"
        >
          <option v-for="one in ON_FAILURE" :key="one.value" :value="one.value">{{ one.words }}</option>
        </select>
        <LeaveToProject
          what="on failure"
          :left="inherits('on_failure')"
          :fixed="fixed"
          @leave="set({ on_failure: null })"
        />
      </label>
      <label class="mb-2 flex items-center gap-2">
        is tried again
        <input
          v-held="test.settings.retries"
          class="field w-16"
          type="number"
          min="0"
          max="5"
          name="retries"
          @change="set({ retries: Number(value($event)) })"
        />
        times
        <LeaveToProject
          what="retries"
          :left="inherits('retries')"
          :fixed="fixed"
          @leave="set({ retries: null })"
        />
      </label>
      <label class="flex items-center gap-2">
        takes pictures
        <select
          class="field w-auto"
          :value="test.settings.pictures"
          @change="set({ pictures: value($event) })"
        >
          <option v-for="one in PICTURES" :key="one.value" :value="one.value">{{ one.words }}</option>
        </select>
        <LeaveToProject
          what="pictures"
          :left="inherits('pictures')"
          :fixed="fixed"
          @leave="set({ pictures: null })"
        />
      </label>
      <label class="mt-2 flex items-center gap-2">
        interrupted rows
        <select
          class="field w-auto"
          name="on_interrupted"
          :value="test.settings.on_interrupted"
          @change="set({ on_interrupted: value($event) })"
        >
          <option v-for="one in ON_INTERRUPTED" :key="one.value" :value="one.value">{{ one.words }}</option>
        </select>
        <LeaveToProject
          what="interrupted rows"
          :left="inherits('on_interrupted')"
          :fixed="fixed"
          @leave="set({ on_interrupted: null })"
        />
      </label>
      <label v-if="test.kind === 'test'" class="mt-2 flex items-center gap-2">
        needs a station labelled
        <Needs
          class="max-w-52"
          :needs="test.needs"
          :fixed="fixed"
          label="Labels that a station must have"
          @save="edits.edit({ do: 'set needs', needs: $event })"
        />
      </label>
      <label v-if="test.kind === 'test'" class="mt-2 flex items-center gap-2">
        is owned by
        <PickOne v-model="owner" class="max-w-52" :list="usePeople" label="Owner of the test" />
      </label>
    </fieldset>
    <fieldset :disabled="fixed || !step">
      <legend class="mb-2 font-semibold">The chosen sentence</legend>
      <p v-if="!step" class="text-soft">Choose a sentence in the story to give it its own.</p>
      <template v-else>
        <p class="mb-2 truncate font-story">{{ step.sentence }}</p>
        <label class="mb-2 flex items-center gap-2">
          waits up to
          <input
            v-held="step.limit ?? ''"
            class="field w-28"
            type="number"
            min="0.1"
            max="600"
            step="0.1"
            :placeholder="String(step.holds.limit)"
            @change="setStep({ limit: value($event) ? Number(value($event)) : null })"
          />
          seconds
          <span class="text-soft" data-role="limit-from"
            >{{ step.holds.limit }} s hold now, from {{ step.holds.limit_from }}</span
          >
        </label>
        <label class="mb-2 flex items-center gap-2">
          when it fails
          <select
            class="field w-auto"
            :value="step.on_failure ?? ''"
            @change="setStep({ on_failure: value($event) || null })"
          >
            <option value="">
              as
              {{ step.holds.on_failure_from === 'this sentence' ? 'elsewhere' : step.holds.on_failure_from }}
              says
            </option>
            <option v-for="one in ON_FAILURE" :key="one.value" :value="one.value">{{ one.words }}</option>
          </select>
        </label>
        <label class="flex items-center gap-2">
          is tried again
          <input
            v-held="step.retries ?? ''"
            class="field w-16"
            type="number"
            min="0"
            max="5"
            :placeholder="String(step.holds.retries)"
            aria-label="Retries of the sentence"
            @change="setStep({ retries: value($event) === '' ? null : Number(value($event)) })"
          />
          times
          <span class="text-soft">from {{ step.holds.retries_from }}</span>
        </label>
        <label class="mt-2 flex items-center gap-2">
          takes pictures
          <select
            class="field w-auto"
            :value="step.pictures ?? ''"
            aria-label="Pictures of the sentence"
            @change="setStep({ pictures: value($event) || null })"
          >
            <option value="">as {{ step.pictures ? 'elsewhere' : step.holds.pictures_from }} says</option>
            <option v-for="one in PICTURES" :key="one.value" :value="one.value">{{ one.words }}</option>
          </select>
        </label>
        <p v-if="isBlock" class="mt-2 text-soft">What is set for a block holds for what is inside it.</p>
      </template>
    </fieldset>
  </div>
</template>
