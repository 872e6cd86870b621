<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import { say } from '@/shared/notes'

import type { Rehearsing } from './useRehearsal'

/** One sentence that is not in the story, done while it is held; several are recorded freely. */
const props = defineProps<{
  rehearsing: Rehearsing
  test: Test
  catalogue: Catalogue
  edits: Edits
  pointed: Record<string, unknown> | null
  recording: boolean
}>()
const emit = defineEmits<{ point: []; record: [on: boolean] }>()
const { held, mine, spotDone, send } = props.rehearsing

const actions = computed(() =>
  props.catalogue.actions.filter((one) => !one.block && !one.onto && one.name !== 'hold'),
)
const name = ref('check')
const action = computed(() => actions.value.find((one) => one.name === name.value))
const inputs = ref<Record<string, string>>({})
watch(
  action,
  (now) => {
    inputs.value = Object.fromEntries(
      (now?.inputs ?? []).map((one) => [one.name, inputs.value[one.name] ?? one.default]),
    )
  },
  { immediate: true },
)
const element = ref('')
watch(
  () => props.pointed,
  (now) => {
    if (now) element.value = POINTED
  },
)
const POINTED = '(pointed at)'
const needs = computed(() => action.value?.kinds !== null)
const ready = computed(() => held.value && mine.value && (!needs.value || element.value !== ''))

function choices(input: { kind: string; choices: string[] }): string[] {
  if (input.kind === 'property') return props.catalogue.properties
  return input.choices
}
function perform() {
  if (!ready.value) return
  spotDone.value = null
  send({
    type: 'on the spot',
    action: name.value,
    inputs: inputs.value,
    ...(needs.value && element.value === POINTED
      ? { made: props.pointed ?? {} }
      : { element: needs.value ? element.value : '' }),
  })
}
const recorded = computed(() => (spotDone.value?.outcome === 'recorded' ? spotDone.value.steps : []))
async function forget() {
  const there = new Set(props.test.steps.map((step) => step.id))
  const gone = recorded.value.filter((id) => there.has(id))
  if (gone.length && (await props.edits.edit({ do: 'remove', steps: gone })))
    say('What was recorded on the spot is taken out again.', () => void props.edits.undo())
  spotDone.value = null
}
</script>

<template>
  <div class="flex h-full min-h-0 flex-col gap-2 overflow-auto px-3 py-2 text-sm" data-role="on-the-spot">
    <form class="flex flex-wrap items-end gap-2" @submit.prevent="perform">
      <label class="flex flex-col text-xs text-soft"
        >Sentence
        <select v-model="name" class="field w-44" aria-label="What to do on the spot">
          <option v-for="one in actions" :key="one.name" :value="one.name">{{ one.title }}</option>
        </select>
      </label>
      <label v-if="needs" class="flex flex-col text-xs text-soft"
        >Element
        <select v-model="element" class="field w-48" aria-label="Element of the sentence on the spot">
          <option value="">choose…</option>
          <option v-if="pointed" :value="POINTED">{{ pointed.name }} (pointed at)</option>
          <option v-for="one in test.elements" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select>
      </label>
      <button
        v-if="needs"
        type="button"
        class="button"
        data-role="point-for-spot"
        :disabled="!held || !mine"
        @click="emit('point')"
      >
        Point at it
      </button>
      <label v-for="one in action?.inputs ?? []" :key="one.name" class="flex flex-col text-xs text-soft"
        >{{ one.name }}
        <select
          v-if="choices(one).length"
          v-model="inputs[one.name]"
          class="field w-36"
          :aria-label="`${one.name} on the spot`"
        >
          <option v-for="choice in choices(one)" :key="choice">{{ choice }}</option>
        </select>
        <input v-else v-model="inputs[one.name]" class="field w-44" :aria-label="`${one.name} on the spot`" />
      </label>
      <button class="button button-main" :disabled="!ready" data-role="do-on-the-spot">Do it</button>
    </form>
    <div
      v-if="spotDone && spotDone.sentence"
      class="flex flex-wrap items-baseline gap-2"
      data-role="spot-result"
    >
      <b :class="spotDone.outcome === 'passed' ? 'text-good' : 'text-bad'">{{ spotDone.outcome }}</b>
      <span class="font-story">{{ spotDone.sentence }}</span>
      <span v-if="spotDone.found" class="text-soft">found “{{ spotDone.found }}”</span>
      <span v-if="spotDone.message" class="text-bad wrap-anywhere">{{ spotDone.message }}</span>
      <template v-if="!spotDone.kept">
        <button class="button" data-role="keep-spot" @click="send({ type: 'keep on the spot' })">
          Keep it in the story here
        </button>
        <button class="button-bare" @click="spotDone = null">Forget it</button>
      </template>
      <span v-else class="text-soft"
        >It stands in the story now, before the sentence at which it is held.</span
      >
    </div>
    <p class="mt-auto flex flex-wrap items-center gap-2 border-t border-line pt-2 text-soft">
      <button
        class="button"
        :disabled="(!held || !mine) && !recording"
        data-role="record-on-the-spot"
        @click="emit('record', !recording)"
      >
        {{ recording ? 'Stop recording' : 'Record several freely' }}
      </button>
      <template v-if="recorded.length">
        {{ recorded.length }} {{ recorded.length === 1 ? 'sentence was' : 'sentences were' }} recorded before
        the one at which it is held.
        <button class="button" @click="forget">Forget them</button>
      </template>
      <template v-else>What you do on the stage while it is held is not kept, unless you record it.</template>
    </p>
  </div>
</template>
