<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Catalogue } from '@/api/client'
import StillView from './StillView.vue'

/** A sentence for a thing of the still; `perform` to do it on the stage at once. */
export interface Act {
  node: number
  action: string
  inputs: Record<string, string>
  perform: boolean
  name: string
}

/** A still of the stage: pick things, and add a sentence or a check for each of them. */
const props = defineProps<{
  saved: number
  catalogue: Catalogue
  busy: boolean
  live?: boolean
  /** The still that was taken before this one. */
  before?: number
  /** What a thing shows on the stage now. */
  peeked?: { node: number; shows: Record<string, string> } | null
}>()
/** `act` is given what to call once the sentences are added: what was picked stays until then. */
const emit = defineEmits<{
  act: [steps: Act[], added: () => void]
  peek: [node: number]
  again: []
  close: []
}>()

/** Whether the picture takes the room of the story as well. */
const wide = defineModel<boolean>('wide', { default: false })
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
const only = computed(() => (nodes.value.length === 1 ? nodes.value[0] : undefined))
/** What a thing shows, by property: what the stage tells now, or what the still tells by itself. */
const shows = (node: (typeof nodes.value)[number]) =>
  props.peeked?.node === node.node ? { ...node.shows, ...props.peeked.shows } : node.shows
const expected = () => (nodes.value[0] && shows(nodes.value[0])[inputs.value.property ?? '']) ?? ''
const known = useQuery({
  queryKey: computed(() => ['look', props.saved, only.value?.node ?? 0]),
  enabled: computed(() => !!only.value),
  queryFn: ({ queryKey }) =>
    ask(
      api.POST('/api/saved-pages/{id}/look', {
        params: { path: { id: queryKey[1] as number } },
        body: { nodes: [{ node: queryKey[2] as number, name: '' }] },
      }),
    ),
})
const told = computed(() => known.data.value?.taken[0])
watch(only, (now) => now && props.live && emit('peek', now.node))
// What is expected follows the property: a number of rows is no text.
watch([() => inputs.value.property, () => props.peeked], () => {
  if ('expected' in inputs.value) inputs.value.expected = expected()
})
watch(
  [shape, picked],
  () => {
    const fresh: Record<string, string> = {}
    for (const input of shape.value?.inputs ?? [])
      fresh[input.name] = input.name === 'option' ? (options.value[0] ?? '') : input.default
    inputs.value = fresh
    if ('expected' in fresh) fresh.expected = expected()
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
    if ('expected' in own && nodes.value.length > 1) own.expected = shows(node)[own.property ?? ''] ?? ''
    return {
      name: nodes.value.length === 1 ? name.value : '',
      node: node.node,
      action: chosen.name,
      inputs: own,
      perform: perform.value && nodes.value.length === 1,
    }
  })
  emit('act', steps, () => {
    if (!perform.value) picked.value = []
  })
}
</script>

<template>
  <StillView ref="still" v-model:picked="picked" :saved="saved" :before="before">
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
      <p v-if="only && told" class="text-xs text-soft wrap-anywhere" data-role="known-by">
        Clues: {{ told.clues.join(', ') }};
        <span :class="told.matches === 1 ? 'text-good' : 'text-bad'">{{
          told.matches === 1 ? 'alone on this page' : `${told.matches} on this page`
        }}</span><template v-if="typeof told.strength === 'number'">
          · survives {{ Math.round(told.strength * 100) }}% of likely changes<template v-if="told.weakest"
            >, not that {{ told.weakest }}</template
          ></template
        >
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
    <div class="mt-2 flex flex-wrap gap-1.5">
      <button v-if="live" class="button" :disabled="busy" @click="emit('again')">New still</button>
      <button v-if="live" class="button" :aria-pressed="wide" @click="wide = !wide">
        {{ wide ? 'Show the story' : 'Full width' }}
      </button>
      <button class="button ml-auto" @click="emit('close')">
        {{ live ? 'Back to the stage' : 'Close' }}
      </button>
    </div>
  </StillView>
</template>
