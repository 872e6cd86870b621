<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Catalogue, Shapes, Test } from '@/api/client'
import { complain, say } from '@/shared/notes'
import { useTextDraft } from '@/shared/useTextDraft'

import { completionsAt } from './completing'
import type { Edits } from '@/features/editing/useEdits'

const TextEditor = defineAsyncComponent(() => import('@/shared/TextEditor.vue'))

/** The whole test as text, in step with its sentences both ways. */
const props = defineProps<{ test: Test; catalogue: Catalogue; edits: Edits; fixed: boolean }>()
const emit = defineEmits<{ choose: [step: string] }>()

const queries = useQueryClient()
const query = useQuery({
  queryKey: computed(() => ['test', props.test.id, 'text', props.test.version]),
  queryFn: () => ask(api.GET('/api/tests/{id}/text', { params: { path: { id: props.test.id } } })),
})
const troubles = ref<Shapes['TroubleOut'][]>([])
/** What has to be mended before the text can be the test. */
const blocking = computed(() => troubles.value.filter((one) => one.blocks))
const busy = ref(false)
const editing = useTextDraft(
  () => `text ${props.test.id}`,
  () => query.data.value,
)
const { draft, base, changed, behind } = editing
function takeOver() {
  editing.takeOver()
  troubles.value = []
}
async function settle() {
  if (await editing.settle('the text')) await send(true)
}

let turn = 0
async function send(write: boolean) {
  const now = ++turn
  busy.value ||= write
  try {
    const got = await ask(
      api.POST('/api/tests/{id}/text', {
        params: { path: { id: props.test.id } },
        body: { base: base.value, text: draft.value, write },
      }),
    )
    if (now !== turn && !write) return
    troubles.value = got.troubles
    if (!got.test) return
    editing.settled(got.test.version)
    queries.setQueryData(['test', props.test.id], got.test)
    say('The text is the test now.', () => void props.edits.undo())
  } catch (error) {
    complain(error)
  } finally {
    if (write) busy.value = false
  }
}
let soon = 0
watch(draft, () => {
  window.clearTimeout(soon)
  if (changed.value) soon = window.setTimeout(() => void send(false), 350)
})

/** The words that fit at a place: parts, actions, elements, columns. */
const words = computed(() => ({
  actions: props.catalogue.actions.map((one) => one.name),
  inputs: Object.fromEntries(
    props.catalogue.actions.map((one) => [one.name, one.inputs.map((it) => it.name)]),
  ),
  elements: props.test.elements.map((one) => (one.page ? `${one.name} on ${one.page}` : one.name)),
  values: Object.entries(props.test.names).flatMap(([source, names]) =>
    names.map((name) => `\${${source}.${name}}`),
  ),
  comparisons: props.catalogue.comparisons,
  properties: props.catalogue.properties,
}))

/** The sentence whose text the cursor is in. */
function onLine(line: number) {
  const before = draft.value.split('\n').slice(0, line)
  const number = before.filter((one) => /^\s*- do: /.test(one)).length
  const inElements = before.some((one) => /^(elements|table):/.test(one))
  const step = props.test.steps[number - 1]
  if (step && !inElements && !changed.value) emit('choose', step.id)
}
</script>

<template>
  <div class="flex h-full min-h-0 flex-col text-sm" data-role="text">
    <div class="flex items-center gap-2 border-b border-line px-3 py-1">
      <template v-if="!fixed">
        <button
          class="button button-main"
          :disabled="!changed || busy || blocking.length > 0 || behind"
          title="Ctrl S"
          @click="send(true)"
        >
          Put it in place
        </button>
        <button class="button" :disabled="!changed" @click="takeOver">Take back</button>
      </template>
      <p v-if="behind" class="flex items-center gap-2 text-bad" data-role="behind">
        The test was changed elsewhere meanwhile.
        <button class="button" @click="settle">See both and decide</button>
      </p>
      <button
        v-else-if="troubles.length"
        class="min-w-0 truncate text-left text-bad"
        data-role="trouble"
        :title="`${troubles[0]!.message} ${troubles[0]!.hint}`"
      >
        Line {{ troubles[0]!.line }}: {{ troubles[0]!.message }} {{ troubles[0]!.hint }}
        <template v-if="troubles.length > 1">(and {{ troubles.length - 1 }} more)</template>
      </button>
      <p v-else class="text-soft">
        {{
          changed
            ? 'Changed, not in place yet; it stays at this desk.'
            : 'The same as the sentences, the rows and the elements.'
        }}
      </p>
      <span class="ml-auto flex shrink-0 gap-1">
        <a
          v-for="form in query.data.value?.forms"
          :key="form.name"
          class="button-bare"
          :href="`/api/tests/${test.id}/exports/${form.name}`"
          download
          >{{ form.title }}</a
        >
      </span>
    </div>
    <TextEditor
      v-if="query.data.value"
      v-model="draft"
      class="min-h-0 flex-1"
      :troubles="troubles"
      :complete="(before) => completionsAt(before, words)"
      language="yaml"
      label="The test as text"
      :fixed="fixed"
      @save="changed && !blocking.length && !behind && send(true)"
      @line="onLine"
    />
  </div>
</template>
