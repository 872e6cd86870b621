<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { computed } from 'vue'

import type { Catalogue, Step, Test } from '@/api/client'

import { intoView } from '@/shared/intoView'

import ElementPart from './ElementPart.vue'
import FlowPart from './FlowPart.vue'
import ValuePart from './ValuePart.vue'
import type { Edits } from '@/features/editing/useEdits'

/** A step as a sentence; each part opens where it stands. */
const props = defineProps<{ step: Step; test: Test; catalogue: Catalogue; edits: Edits; fixed: boolean }>()
defineEmits<{ edit: [element: string]; putBack: [] }>()

const element = computed(() => props.test.elements.find((one) => one.id === props.step.element))
const onto = computed(() => props.test.elements.find((one) => one.id === props.step.onto))
/** Other actions that the same element and values make sense for. */
const others = computed(() => {
  const now = props.catalogue.actions.find((one) => one.name === props.step.action)
  return props.catalogue.actions.filter(
    (one) =>
      one.name !== props.step.action &&
      one.block === now?.block &&
      one.block !== 'flow' &&
      (one.kinds === null) === (now?.kinds === null) &&
      (!one.kinds?.length || (element.value && one.kinds.includes(element.value.kind))),
  )
})
const firstWords = computed(() => props.step.parts.findIndex((part) => part.kind === 'words'))

function act(name: string, close: () => void) {
  const action = props.catalogue.actions.find((one) => one.name === name)
  if (!action) return
  const missing = action.inputs.filter((input) => !(input.name in props.step.inputs))
  const extra = Object.keys(props.step.inputs).filter(
    (input) => !action.inputs.some((one) => one.name === input),
  )
  close()
  const inputs = {
    ...props.step.inputs,
    ...Object.fromEntries(missing.map((input) => [input.name, input.default])),
  }
  for (const name of extra) delete inputs[name]
  const fresh = {
    action: name,
    element: props.step.element,
    inputs,
    page: props.step.page,
    picture: props.step.picture,
    box: props.step.box,
  }
  // Values that the new action does not take have to go, so the sentence is put in anew.
  if (extra.length)
    void props.edits
      .edit({ do: 'insert', steps: [fresh], after: props.step.id })
      .then((done) => done && props.edits.edit({ do: 'remove', steps: [props.step.id] }))
  else void props.edits.edit({ do: 'change', step: props.step.id, fields: { action: name, inputs } })
}
</script>

<template>
  <span class="font-story leading-7" :class="!step.enabled && 'line-through decoration-soft'">
    <template v-for="(part, number) in step.parts" :key="number">
      <Popover v-if="part.kind === 'words' && number === firstWords && !fixed" as="span">
        <PopoverButton class="rounded px-0.5 hover:bg-sunk" :disabled="others.length === 0">{{
          part.text
        }}</PopoverButton>
        <PopoverPanel
          v-slot="{ close }"
          class="floating absolute top-full left-0 w-56 p-1 font-sans text-sm"
          @vue:mounted="intoView"
        >
          <button
            v-for="one in others"
            :key="one.name"
            class="block w-full rounded px-2 py-1 text-left hover:bg-sunk"
            :title="one.help"
            @click="act(one.name, close)"
          >
            {{ one.title }}
          </button>
        </PopoverPanel>
      </Popover>
      <template v-else-if="part.kind === 'words'">{{ part.text }}</template>
      <ElementPart
        v-else-if="part.kind === 'element'"
        :text="part.text"
        :which="part.input === 'onto' ? 'onto' : 'element'"
        :element="part.input === 'onto' ? onto : element"
        :step="step"
        :test="test"
        :edits="edits"
        :fixed="fixed"
        @edit="$emit('edit', $event)"
      />
      <FlowPart
        v-else-if="part.kind === 'flow'"
        :text="part.text"
        :step="step"
        :test="test"
        :edits="edits"
        :fixed="fixed"
        @put-back="$emit('putBack')"
      />
      <ValuePart
        v-else
        :input="part.input ?? ''"
        :said="part.said"
        :step="step"
        :test="test"
        :catalogue="catalogue"
        :edits="edits"
        :fixed="fixed"
      />
      {{ ' ' }}
    </template>
  </span>
</template>
