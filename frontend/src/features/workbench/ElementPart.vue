<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'

import { api, ask } from '@/api/client'
import type { Shapes, Step, Test } from '@/api/client'
import Draft from '@/shared/Draft.vue'
import { saved } from '@/shared/conflicts'
import { useAct } from '@/shared/acting'

import { intoView } from '@/shared/intoView'

import type { Edits } from '@/features/editing/useEdits'

const props = defineProps<{
  text: string
  which: 'element' | 'onto'
  element: Shapes['ElementOut'] | undefined
  step: Step
  test: Test
  edits: Edits
  fixed: boolean
}>()
const emit = defineEmits<{ edit: [element: string] }>()

const renaming = useAct(
  ({ id, was, name }: { id: string; was: string; name: string }) => {
    const path = { params: { path: { key: id } } }
    return saved(
      'name',
      name,
      was,
      (text, before) => ask(api.PATCH('/api/elements/{key}', { ...path, body: { name: text, was: before } })),
      async () => (await ask(api.GET('/api/elements/{key}', path))).name,
    )
  },
  { stale: [['test'], ['pages']] },
)
function rename(typed: string) {
  const name = typed.trim()
  const { id, name: was } = props.element ?? { id: '', name: '' }
  return id && name && name !== was ? renaming.act({ id, was, name }) : undefined
}

const replace = (event: Event) =>
  props.edits.edit({
    do: 'change',
    step: props.step.id,
    fields: { [props.which]: (event.target as HTMLSelectElement).value },
  })
</script>

<template>
  <Popover v-slot="{ close }" as="span">
    <PopoverButton
      class="rounded px-1 font-semibold underline decoration-line decoration-2 underline-offset-4 hover:bg-sunk"
      >{{ text }}</PopoverButton
    >
    <PopoverPanel
      class="floating absolute top-full left-0 w-80 p-3 font-sans text-sm"
      @vue:mounted="intoView"
    >
      <template v-if="element">
        <label class="mb-2 block">
          Name
          <Draft
            class="field mt-1"
            :value="element.name"
            :keep="`name of element ${element.id}`"
            :disabled="fixed"
            @save="rename"
          />
        </label>
        <p class="mb-1 text-soft">
          A {{ element.kind }} on {{ element.page || 'a page without a title' }}, known by
        </p>
        <ul class="mb-2 list-disc pl-5">
          <li v-for="clue in element.clues" :key="clue.sentence" class="wrap-anywhere">
            {{ clue.sentence }}
          </li>
        </ul>
        <details v-if="element.spare.length" class="mb-2">
          <summary class="cursor-pointer text-soft">{{ element.spare.length }} spare clues</summary>
          <ul class="list-disc pl-5 text-soft">
            <li v-for="clue in element.spare" :key="clue.sentence" class="wrap-anywhere">
              {{ clue.sentence }}
            </li>
          </ul>
        </details>
        <button class="button mb-2" @click="(close(), emit('edit', element.id))">
          Edit how it is recognised
        </button>
      </template>
      <p v-else class="mb-2 text-bad">This sentence has no element. Choose one that the test uses.</p>
      <label v-if="!fixed" class="block">
        Act on another
        <select class="field mt-1" :value="step[which]" @change="replace">
          <option v-for="one in test.elements" :key="one.id" :value="one.id">
            {{ one.name }} ({{ one.kind }})
          </option>
        </select>
      </label>
    </PopoverPanel>
  </Popover>
</template>
