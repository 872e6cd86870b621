<script setup lang="ts">
import { useDebounce } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import ListHead from '@/shared/ListHead.vue'
import ListTable from '@/shared/ListTable.vue'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { useFlowList } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { say } from '@/shared/notes'

type Flow = Shapes['FlowOut']

/** The flows of the project, and what calls each. */
const router = useRouter()
const environments = useEnvironments()
const words = ref('')
const query = useDebounce(words, 200)
const flows = useFlowList(query)
const creating = ref(false)
const inPython = ref(false)
const name = ref('')
const environment = ref(0)
const deleting = ref<Flow | null>(null)
/** Names of callers that a line shows. */
const MOST = 5
const COLUMNS: Column[] = [
  { id: 'name', title: 'Name', class: 'max-w-80' },
  { id: 'made', title: 'Made of', class: 'whitespace-nowrap text-soft' },
  { id: 'takes', title: 'Takes', class: 'max-w-56 wrap-anywhere' },
  { id: 'gives', title: 'Gives', class: 'max-w-56 wrap-anywhere' },
  { id: 'uses', title: 'Called by', class: 'max-w-96 wrap-anywhere' },
  { id: 'acts', title: 'Actions', hidden: true },
]
const counted = (steps: number) => `${steps} ${steps === 1 ? 'sentence' : 'sentences'}`

const { act: create } = useAct(
  () => {
    const body = {
      name: name.value,
      environment: environment.value || environments.data.value!.environments[0]!.id,
      kind: 'flow' as const,
      in_python: inPython.value,
    }
    return ask(api.POST('/api/tests', { body }))
  },
  {
    stale: [['flows']],
    done: (made) => router.push(`/${inPython.value ? 'code' : 'tests'}/${made.id}`),
  },
)
const { act: remove } = useAct(
  (flow: Flow) => ask(api.DELETE('/api/flows/{id}', { params: { path: { id: Number(flow.flow.id) } } })),
  {
    stale: [['flows'], ['test']],
    done: ({ count }, { flow }) => {
      say(
        `The flow “${flow.name}” was deleted; ${count} ${count === 1 ? 'call was' : 'calls were'} put back.`,
      )
      deleting.value = null
    },
  },
)
</script>

<template>
  <div class="page">
    <ListHead v-model:words="words" title="Flows" search="Search flows">
      <template v-if="mayChange()" #acts>
        <button class="button button-main" @click="creating = true">New flow</button>
      </template>
    </ListHead>
    <Trouble :error="flows.error.value" />
    <Empty v-if="flows.first.value && !flows.rows.value.length && !query" title="No flow yet"
      >A flow is a part that several tests share, such as signing in. Choose its sentences in a test and make
      a flow of them, or begin with an empty one.</Empty
    >
    <p v-else-if="flows.first.value && !flows.rows.value.length" class="panel p-6 text-center text-soft">
      No flow has that name.
    </p>
    <ListTable v-else-if="flows.first.value" :list="flows" :columns="COLUMNS" role="flow-row">
      <template #name="{ row }">
        <RouterLink
          :to="`/${row.flow.in_python ? 'code' : 'tests'}/${row.id}`"
          class="font-medium wrap-anywhere hover:underline"
          >{{ row.name }}</RouterLink
        >
      </template>
      <template #made="{ row }">{{ row.flow.in_python ? 'in Python' : counted(row.steps) }}</template>
      <template #takes="{ row }">{{ row.flow.takes.map((it) => it.name).join(', ') }}</template>
      <template #gives="{ row }">{{ row.flow.gives.join(', ') }}</template>
      <template #uses="{ row }">
        <template v-for="(use, place) in row.uses.slice(0, MOST)" :key="use.id"
          >{{ place ? ', ' : ''
          }}<RouterLink class="hover:underline" :to="`/tests/${use.id}?sentence=${use.sentences[0]}`">{{
            use.name
          }}</RouterLink></template
        >
        <template v-if="row.uses.length > MOST"> and {{ row.uses.length - MOST }} more</template>
        <span v-if="!row.uses.length" class="text-soft">nothing yet</span>
      </template>
      <template #acts="{ row }">
        <button
          v-if="mayChange()"
          class="button-bare"
          :aria-label="`Delete ${row.name}`"
          @click="deleting = row"
        >
          Delete
        </button>
      </template>
    </ListTable>
    <Modal v-model:open="creating" title="New flow">
      <form class="flex flex-col gap-3 text-sm" @submit.prevent="create()">
        <label>Its name <input v-model="name" class="field mt-1" required maxlength="200" /></label>
        <label
          >Environment to record it in
          <select v-model="environment" class="field mt-1">
            <option v-for="one in environments.data.value?.environments ?? []" :key="one.id" :value="one.id">
              {{ one.name }}
            </option>
          </select></label
        >
        <label class="flex items-center gap-2"
          ><input v-model="inPython" type="checkbox" name="python" /> written in Python, for what no sentence
          does</label
        >
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="creating = false">Cancel</button>
          <button class="button button-main">Make it</button>
        </div>
      </form>
    </Modal>
    <Modal
      :open="deleting !== null"
      :title="`Delete “${deleting?.flow.name}”?`"
      @update:open="deleting = null"
    >
      <div v-if="deleting" class="flex flex-col gap-3 text-sm">
        <template v-if="deleting.uses.length">
          <p>
            {{
              deleting.flow.in_python
                ? 'It is called here; delete those sentences first:'
                : 'Its sentences are put back where it is called:'
            }}
          </p>
          <ul class="list-disc pl-5">
            <li v-for="use in deleting.uses" :key="use.id">
              {{ use.name }}, sentence {{ use.sentences.join(', ') }}
            </li>
          </ul>
        </template>
        <p v-else class="text-soft">Nothing calls it.</p>
        <div class="flex justify-end gap-2">
          <button class="button" @click="deleting = null">Keep it</button>
          <button class="button button-bad" @click="remove(deleting)">Delete the flow</button>
        </div>
      </div>
    </Modal>
  </div>
</template>
