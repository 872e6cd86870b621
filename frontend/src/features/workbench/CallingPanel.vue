<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'

import type { Edits } from '@/features/editing/useEdits'
import ImpactButton from '@/features/impact/ImpactButton.vue'

/** What a flow takes and gives, and who calls it: changes reach every call in one act. */
const props = defineProps<{ test: Test; edits: Edits; fixed: boolean }>()

interface Input {
  name: string
  kind: Test['takes'][number]['kind']
  default: string
  was: string
}
const KINDS: Input['kind'][] = ['text', 'number', 'date', 'yes/no']
const inputs = ref<Input[]>([])
const outputs = ref<string[]>([])

watch(
  () => props.test.version,
  () => {
    inputs.value = props.test.takes.map((one) => ({ ...one, was: one.name }))
    outputs.value = [...props.test.gives]
  },
  { immediate: true },
)
const uses = useQuery({
  queryKey: computed(() => ['flows', props.test.id]),
  queryFn: () => ask(api.GET('/api/flows/{id}', { params: { path: { id: props.test.id } } })),
})
const kept = computed(() => [
  ...new Set(props.test.steps.filter((one) => one.action === 'keep').map((one) => one.inputs.name!)),
])
const changed = computed(
  () =>
    JSON.stringify(inputs.value.map(({ name, kind, default: value }) => ({ name, kind, default: value }))) !==
      JSON.stringify(
        props.test.takes.map(({ name, kind, default: value }) => ({ name, kind, default: value })),
      ) || outputs.value.join() !== props.test.gives.join(),
)
const callers = computed(() => uses.data.value?.uses ?? [])

function save() {
  const was = Object.fromEntries(
    inputs.value.filter((one) => one.was && one.was !== one.name).map((one) => [one.name, one.was]),
  )
  void props.edits.edit({
    do: 'set calling',
    takes: inputs.value.map(({ name, kind, default: value }) => ({
      name: name.trim(),
      kind,
      default: value,
    })),
    gives: outputs.value,
    was,
  })
}
</script>

<template>
  <div
    class="grid h-full grid-cols-[minmax(0,1fr)_12rem_16rem] gap-6 overflow-auto px-4 py-2 text-sm"
    data-role="calling"
  >
    <form @submit.prevent="save">
      <p class="mb-1 font-semibold">What it takes</p>
      <div v-for="(one, place) in inputs" :key="place" class="mb-1 flex items-center gap-2">
        <input
          v-model="one.name"
          class="field w-40"
          :disabled="fixed"
          :aria-label="`Name of input ${place + 1}`"
        />
        <select v-model="one.kind" class="field w-auto" :disabled="fixed" :aria-label="`Type of ${one.name}`">
          <option v-for="kind in KINDS" :key="kind">{{ kind }}</option>
        </select>
        <input
          v-model="one.default"
          class="field w-48"
          :disabled="fixed"
          placeholder="usual value"
          :aria-label="`Usual value of ${one.name}`"
        />
        <button
          v-if="!fixed"
          type="button"
          class="button-bare"
          :aria-label="`Delete input ${one.name}`"
          @click="inputs.splice(place, 1)"
        >
          ×
        </button>
      </div>
      <div v-if="!fixed" class="mt-1 flex items-center gap-2">
        <button
          type="button"
          class="button"
          @click="inputs.push({ name: `input_${inputs.length + 1}`, kind: 'text', default: '', was: '' })"
        >
          Add an input
        </button>
        <button class="button button-main" :disabled="!changed">
          {{ callers.length ? `Save, and change ${callers.length} that call it` : 'Save' }}
        </button>
      </div>
      <p v-if="inputs.length === 0" class="mt-1 text-soft">
        Nothing: it does the same wherever it is called.
      </p>
    </form>
    <fieldset :disabled="fixed">
      <legend class="mb-1 font-semibold">What it gives back</legend>
      <label v-for="one in kept" :key="one" class="flex items-center gap-2"
        ><input v-model="outputs" type="checkbox" :value="one" /> {{ one }}</label
      >
      <p v-if="kept.length === 0" class="text-soft">Keep a value in the flow to give it back.</p>
    </fieldset>
    <section aria-label="Called by">
      <p class="mb-1 flex items-center gap-2 font-semibold">
        Called by <ImpactButton kind="flow" :of="test.id" class="py-0" />
      </p>
      <ul>
        <li v-for="one in callers" :key="one.id" class="truncate">
          <RouterLink class="hover:underline" :to="`/tests/${one.id}?sentence=${one.sentences[0]}`">{{
            one.name
          }}</RouterLink>
          <span class="text-soft"> sentence {{ one.sentences.join(', ') }}</span>
        </li>
      </ul>
      <p v-if="callers.length === 0" class="text-soft">Nothing calls it yet.</p>
    </section>
  </div>
</template>
