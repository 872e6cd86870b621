<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Catalogue } from '@/api/client'
import StillView from '@/features/pages/StillView.vue'

/** A sentence for a thing of the still; `perform` to do it on the stage at once. */
export interface Act {
  node: number
  action: string
  inputs: Record<string, string>
  perform: boolean
  name: string
}

/** A still of the stage: pick things, and add a sentence or a check for each of them. */
const props = defineProps<{ saved: number; catalogue: Catalogue; busy: boolean; live?: boolean }>()
const emit = defineEmits<{ act: [steps: Act[]]; again: []; close: [] }>()

const still = ref<InstanceType<typeof StillView> | null>(null)
const picked = ref<number[]>([])
const action = ref('check')
const inputs = ref<Record<string, string>>({})
const perform = ref(false)
const name = ref('')

const nodes = computed(() => (still.value?.nodes ?? []).filter((node) => picked.value.includes(node.node)))
const fitting = computed(() =>
  props.catalogue.actions.filter(
    (one) =>
      one.kinds !== null &&
      !one.onto &&
      nodes.value.every((node) => !one.kinds!.length || one.kinds!.includes(node.kind)),
  ),
)
const shape = computed(() => fitting.value.find((one) => one.name === action.value) ?? fitting.value[0])
const options = computed(() => [...new Set(nodes.value.flatMap((node) => node.options))])
const choices = (input: { kind: string; choices: string[]; name: string }) =>
  input.kind === 'property'
    ? props.catalogue.properties
    : input.name === 'option'
      ? options.value
      : input.choices
watch(
  [shape, picked],
  () => {
    const first = nodes.value[0]
    const fresh: Record<string, string> = {}
    for (const input of shape.value?.inputs ?? [])
      fresh[input.name] =
        input.name === 'expected'
          ? (first?.text ?? '')
          : input.name === 'option'
            ? (options.value[0] ?? '')
            : input.default
    inputs.value = fresh
  },
  { immediate: true },
)
watch(
  () => props.saved,
  () => (picked.value = []),
)
watch(picked, () => (name.value = ''))

function add() {
  const chosen = shape.value
  if (!chosen) return
  const steps = nodes.value.map((node) => {
    const own = { ...inputs.value }
    // Several checks at once: each expects what its own thing shows.
    if (chosen.name === 'check' && nodes.value.length > 1 && own.property === 'text') own.expected = node.text
    return {
      name: nodes.value.length === 1 ? name.value : '',
      node: node.node,
      action: chosen.name,
      inputs: own,
      perform: perform.value && nodes.value.length === 1,
    }
  })
  emit('act', steps)
  if (!perform.value) picked.value = []
}
</script>

<template>
  <StillView ref="still" v-model:picked="picked" :saved="saved">
    <slot />
    <form
      v-if="nodes.length"
      class="flex flex-col gap-1.5 text-sm"
      data-role="still-act"
      @submit.prevent="add"
    >
      <input
        v-if="live && nodes.length === 1"
        v-model="name"
        class="field font-medium"
        :placeholder="nodes[0]!.name"
        aria-label="Name of the element"
      />
      <p v-else class="truncate font-medium">
        {{ nodes.length === 1 ? nodes[0]!.name : `${nodes.length} things` }}
      </p>
      <label class="flex items-center gap-2"
        >do
        <select v-model="action" class="field" aria-label="What to do">
          <option v-for="one in fitting" :key="one.name" :value="one.name">{{ one.title }}</option>
        </select>
      </label>
      <label
        v-for="input in shape?.inputs.filter((one) => !(one.name === 'expected' && nodes.length > 1))"
        :key="input.name"
        class="flex items-center gap-2"
      >
        <span class="w-20 shrink-0">{{ input.name }}</span>
        <select
          v-if="choices(input).length"
          v-model="inputs[input.name]"
          class="field"
          :aria-label="input.name"
        >
          <option v-for="one in choices(input)" :key="one">{{ one }}</option>
        </select>
        <input v-else v-model="inputs[input.name]" class="field" :aria-label="input.name" />
      </label>
      <label v-if="live && nodes.length === 1" class="flex items-center gap-1.5"
        ><input v-model="perform" type="checkbox" /> do it on the stage at once</label
      >
      <button class="button button-main self-end" :disabled="!shape || busy">
        Add {{ nodes.length > 1 ? `${nodes.length} sentences` : 'the sentence' }}
      </button>
    </form>
    <p v-else class="text-sm text-soft">
      The page stands still. Pick one thing or several, in the list or on the picture.
    </p>
    <div class="mt-2 flex gap-1.5">
      <button v-if="live" class="button" :disabled="busy" @click="emit('again')">New still</button>
      <button class="button ml-auto" @click="emit('close')">
        {{ live ? 'Back to the stage' : 'Close' }}
      </button>
    </div>
  </StillView>
</template>
