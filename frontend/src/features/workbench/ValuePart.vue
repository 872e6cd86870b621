<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { computed, ref } from 'vue'

import type { Catalogue, Step, Test } from '@/api/client'

import { useFiles } from '@/api/queries'
import Draft from '@/shared/Draft.vue'
import Near from '@/shared/Near.vue'
import { draftOf } from '@/shared/drafts'

import { intoView } from '@/shared/intoView'
import { useTyped } from '@/shared/useTyped'

import MadeForm from './MadeForm.vue'

import type { Edits } from '@/features/editing/useEdits'

const props = defineProps<{
  input: string
  said?: string
  step: Step
  test: Test
  catalogue: Catalogue
  edits: Edits
  fixed: boolean
}>()

const value = computed(() => props.step.inputs[props.input] ?? '')
const shape = computed(() =>
  props.catalogue.actions
    .find((one) => one.name === props.step.action)
    ?.inputs.find((one) => one.name === props.input),
)
const files = useFiles(computed(() => props.test.id))
const choices = computed(() => {
  if (shape.value?.kind === 'file') return files.data.value?.files.map((file) => file.name) ?? []
  if (shape.value?.kind === 'property') return props.catalogue.properties
  return shape.value?.choices ?? []
})
/** What the list offered when it was seen last. */
const known = computed(() =>
  props.input === 'option'
    ? (props.test.elements.find((one) => one.id === props.step.element)?.options ?? [])
    : [],
)
/** Parts that are words of the language rather than a value of the business. */
const plain = computed(
  () => (choices.value.length > 0 && shape.value?.kind !== 'file') || shape.value?.kind === 'keys',
)
/** Where a value that is one name comes from, as the catalogue says it. */
const named = computed(() => {
  const [, key = '', name = ''] = /^\$\{(\w+)\.(\w+)\}$/.exec(value.value) ?? []
  const source = props.catalogue.sources.find((one) => one.name === key)
  return source && { name, hidden: source.hidden, tells: source.tells.replace('{}', name) }
})
const constant = computed(() => !plain.value && !/(?<!\$)\$\{/.test(value.value))
const proposed = computed(() => {
  const element = props.test.elements.find((one) => one.id === props.step.element)
  const name = (element?.name ?? props.input)
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
  return /^[a-z_]/.test(name) ? name : `v_${name}`
})
const name = ref('')
const making = ref(false)
const typed = useTyped(() => props.test.id)
const place = computed(() => `value ${props.step.id} ${props.input}`)
/** What was typed here and is not saved: since it can not be sent, or since the page was left. */
const unsaved = computed(() => {
  for (const { edit } of [...props.edits.waiting.value].reverse()) {
    const mine = edit.do === 'change' && edit.step === props.step.id && edit.fields.inputs?.[props.input]
    if (typeof mine === 'string') return mine
  }
  return left.value
})
const left = ref(draftOf<{ text: string }>(place.value)?.text)
const look = () => (left.value = draftOf<{ text: string }>(place.value)?.text)

function save(close: () => void, next: string) {
  left.value = undefined
  making.value = false
  typed.forget()
  void props.edits.edit({
    do: 'change',
    step: props.step.id,
    fields: { inputs: { [props.input]: next } },
  })
  close()
}

function toColumn(close: () => void, chosen?: string) {
  const target = chosen ?? (name.value.trim() || proposed.value)
  close()
  name.value = ''
  void props.edits.edit({ do: 'to column', step: props.step.id, input: props.input, column: target })
}
</script>

<template>
  <Popover v-slot="{ close }" as="span">
    <PopoverButton
      class="rounded px-1 text-left wrap-anywhere hover:bg-sunk"
      :title="unsaved === undefined ? undefined : 'Not saved yet'"
      :data-unsaved="unsaved === undefined ? undefined : true"
      :class="
        unsaved !== undefined
          ? 'unsaved border border-line bg-sheet'
          : plain
            ? ''
            : (named && !named.hidden) || said
              ? 'border border-dashed border-strong-line text-act'
              : 'border border-line bg-sheet'
      "
      :data-input="input"
    >
      <template v-if="named && unsaved === undefined">{{ named.hidden ? '••••••' : named.name }}</template>
      <template v-else-if="unsaved !== undefined">{{ unsaved || '(empty)' }}</template>
      <template v-else>{{ said || value || '(empty)' }}</template>
    </PopoverButton>
    <PopoverPanel
      class="floating absolute top-full left-0 w-72 p-3 font-sans text-sm"
      @vue:mounted="intoView"
      @vue:unmounted="look"
    >
      <label class="block">
        {{ input }}
        <select
          v-if="choices.length"
          class="field mt-1"
          :value="value"
          :disabled="fixed"
          @change="save(close, ($event.target as HTMLSelectElement).value)"
        >
          <option v-if="!choices.includes(value)">{{ value }}</option>
          <option v-for="one in choices" :key="one">{{ one }}</option>
        </select>
        <Draft
          v-else
          :list="known.length ? `options of ${step.id}` : undefined"
          class="field mt-1"
          :value="value"
          :keep="place"
          :disabled="fixed"
          :aria-label="input"
          @save="save(close, $event)"
          @input="typed.check({ value: $event.target.value, step: step.id, input })"
          @keydown.enter="close()"
        />
        <datalist v-if="known.length" :id="`options of ${step.id}`">
          <option v-for="one in known" :key="one">{{ one }}</option>
        </datalist>
      </label>
      <Near class="mt-1" :wrong="typed.wrong.value" @pick="save(close, $event)" />
      <p v-if="named" class="mt-2 text-soft">{{ named.tells }}</p>
      <template v-if="!plain && !fixed && !named?.hidden">
        <button v-if="!making && !said" type="button" class="button-bare mt-2" @click.prevent="making = true">
          Make it up for each row…
        </button>
        <MadeForm
          v-else
          class="mt-3 border-t border-line pt-3"
          :catalogue="catalogue"
          :value="value"
          @save="save(close, $event)"
          @vue:mounted="intoView"
        />
      </template>
      <form
        v-if="constant && !fixed"
        class="mt-3 border-t border-line pt-3"
        @submit.prevent="toColumn(close)"
      >
        <p class="mb-1 font-medium">Replace by column</p>
        <div class="flex gap-2">
          <input
            v-model="name"
            class="field"
            :placeholder="proposed"
            aria-label="Name of the column"
            name="column"
          />
          <button class="button">Replace</button>
        </div>
        <p v-if="test.columns.length" class="mt-2 flex flex-wrap gap-1">
          <button
            v-for="one in test.columns"
            :key="one"
            type="button"
            class="chip hover:border-ink"
            @click="toColumn(close, one)"
          >
            {{ one }}
          </button>
        </p>
      </form>
    </PopoverPanel>
  </Popover>
</template>
