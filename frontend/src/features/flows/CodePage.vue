<script setup lang="ts">
import ImpactButton from '@/features/impact/ImpactButton.vue'
import { computed, defineAsyncComponent, ref, watch } from 'vue'

import { ApiProblem, api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useHere } from '@/api/presence'
import { useFlow, useTest } from '@/api/queries'
import OthersHere from '@/features/editing/OthersHere.vue'
import { useEdits } from '@/features/editing/useEdits'
import Draft from '@/shared/Draft.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { complain, say } from '@/shared/notes'
import { useRouteId } from '@/shared/routeId'
import { useTextDraft } from '@/shared/useTextDraft'

import TryCode from './TryCode.vue'

const TextEditor = defineAsyncComponent(() => import('@/shared/TextEditor.vue'))

/** A flow written in Python: its source, what it takes and gives, and what calls it. */
const id = useRouteId()
const query = useTest(id)
const flow = computed(() => query.data.value)
const edits = useEdits(flow)
useHere(() => flow.value?.id ?? 0)
const told = useFlow(computed(() => flow.value?.id ?? 0))
const uses = computed(() => told.data.value?.uses ?? [])

const troubles = ref<Shapes['TroubleOut'][]>([])
const editing = useTextDraft(
  () => `code ${flow.value?.id ?? 0}`,
  () => flow.value && { text: flow.value.code, version: flow.value.version },
)
const { draft, base, changed, behind } = editing
function takeOver() {
  editing.takeOver()
  troubles.value = []
}
async function settle() {
  if (await editing.settle('the code')) await save()
}

const saving = useAct(
  (id: number) => {
    const body = { base: base.value, edit: { do: 'set code' as const, code: draft.value } }
    return ask(api.POST('/api/tests/{id}/edits', { params: { path: { id } }, body }))
  },
  {
    inPlace: true,
    done: async (now) => {
      editing.settled(now.version)
      troubles.value = []
      await query.refetch()
      say('Saved.', () => void edits.undo().then(takeOver))
    },
  },
)
/** Why saving was refused stands at its line of the code, where it is about one. */
watch(saving.trouble, (error) => {
  const line = error instanceof ApiProblem && /^line (\d+)$/.exec(error.where)
  if (error && !line) complain(error)
  else if (line) troubles.value = [{ line: Number(line[1]), message: error.message, hint: error.hint }]
})
async function save() {
  if (flow.value && changed.value) await saving.act(flow.value.id)
}
</script>

<template>
  <div class="flex h-full flex-col">
    <Trouble :error="query.error.value" class="m-4" />
    <template v-if="flow">
      <div class="flex items-center gap-3 border-b border-line bg-sheet px-4 py-2">
        <RouterLink to="/flows" class="text-soft hover:underline">Flows</RouterLink>
        <Draft
          class="min-w-0 flex-1 truncate rounded border border-transparent bg-transparent px-1 font-story text-lg hover:border-line"
          :value="flow.name"
          :disabled="!mayChange()"
          aria-label="Name of the flow"
          @save="edits.rename($event)"
        />
        <span class="chip">Python</span>
        <OthersHere :test="flow" />
        <span v-if="changed" class="chip" data-role="unsaved">not saved</span>
        <template v-if="mayChange()">
          <button class="button" :disabled="!changed" @click="takeOver">Take back</button>
          <button class="button button-main" :disabled="!changed || behind" title="Ctrl S" @click="save">
            Save
          </button>
        </template>
      </div>
      <p
        v-if="behind"
        class="flex items-center gap-2 border-b border-line px-4 py-1 text-sm text-bad"
        data-role="behind"
      >
        It was changed elsewhere meanwhile.
        <button class="button" @click="settle">See both and decide</button>
      </p>
      <p
        v-else-if="troubles.length"
        class="border-b border-line px-4 py-1 text-sm text-bad"
        data-role="trouble"
      >
        Line {{ troubles[0]!.line }}: {{ troubles[0]!.message }} {{ troubles[0]!.hint }}
      </p>
      <div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_20rem]">
        <TextEditor
          v-model="draft"
          class="min-h-0"
          :troubles="troubles"
          :fixed="!mayChange()"
          language="python"
          label="The code"
          @save="save"
        />
        <aside class="overflow-auto border-l border-line bg-sheet p-4 text-sm">
          <TryCode v-if="mayChange()" :flow="flow" :code="draft" @troubles="troubles = $event" />
          <h2 class="mb-1 font-semibold">Takes</h2>
          <ul class="mb-4" data-role="takes">
            <li v-for="one in flow.takes" :key="one.name">
              {{ one.name }} <span class="text-soft">{{ one.kind }}</span>
              <span v-if="one.default" class="text-soft"> · {{ one.default }} unless given</span>
            </li>
            <li v-if="!flow.takes.length" class="text-soft">nothing</li>
          </ul>
          <h2 class="mb-1 font-semibold">Gives</h2>
          <ul class="mb-4">
            <li v-for="one in flow.gives" :key="one">
              <code>{{ '${kept.' + one + '}' }}</code>
            </li>
            <li v-if="!flow.gives.length" class="text-soft">nothing</li>
          </ul>
          <h2 class="mb-1 flex items-center font-semibold">
            Called by <ImpactButton kind="flow" :of="id" class="ml-auto py-0" />
          </h2>
          <ul class="mb-4">
            <li v-for="use in uses" :key="use.id">
              <RouterLink class="hover:underline" :to="`/tests/${use.id}?sentence=${use.sentences[0]}`">{{
                use.name
              }}</RouterLink>
            </li>
            <li v-if="!uses.length" class="text-soft">
              nothing yet; find it under Sentence in a test, by its name
            </li>
          </ul>
          <p class="text-soft">
            Inputs are typed <code>str</code>, <code>int</code>, <code>float</code>, <code>bool</code> or
            <code>date</code>. A line <code>Gives: name, other</code> in the docstring names what the returned
            dictionary holds. It runs by itself, without network, files of Lantern or packages, for as long as
            the sentence may wait.
          </p>
        </aside>
      </div>
    </template>
  </div>
</template>
