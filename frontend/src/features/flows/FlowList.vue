<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useEnvironments, useFlows } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { complain, say } from '@/shared/notes'

type Flow = Shapes['FlowOut']

/** The flows of the project, and what calls each. */
const router = useRouter()
const query = useFlows()
const environments = useEnvironments()
const words = ref('')
const creating = ref(false)
const inPython = ref(false)
const name = ref('')
const environment = ref(0)
const deleting = ref<Flow | null>(null)

const all = computed(() => query.data.value?.flows ?? [])
const shown = computed(() =>
  all.value.filter(({ flow }) => flow.name.toLowerCase().includes(words.value.trim().toLowerCase())),
)

async function create() {
  try {
    const body = {
      name: name.value,
      environment: environment.value || environments.data.value!.environments[0]!.id,
      kind: 'flow' as const,
      in_python: inPython.value,
    }
    const made = await ask(api.POST('/api/tests', { body }))
    await router.push(`/${inPython.value ? 'code' : 'tests'}/${made.id}`)
  } catch (error) {
    complain(error)
  }
}
async function remove(flow: Flow) {
  try {
    const { count } = await ask(
      api.DELETE('/api/flows/{id}', { params: { path: { id: Number(flow.flow.id) } } }),
    )
    say(
      `The flow “${flow.flow.name}” was deleted; ${count} ${count === 1 ? 'call was' : 'calls were'} put back.`,
    )
    deleting.value = null
    await query.refetch()
  } catch (error) {
    complain(error)
  }
}
</script>

<template>
  <div class="page">
    <div class="mb-4 flex items-center gap-3">
      <h1 class="heading">Flows</h1>
      <input
        v-if="all.length"
        v-model="words"
        class="field ml-4 w-64"
        type="search"
        placeholder="Search flows"
        aria-label="Search flows"
      />
      <button v-if="mayChange()" class="button button-main ml-auto" @click="creating = true">New flow</button>
    </div>
    <Trouble :error="query.error.value" />
    <Empty v-if="query.data.value && all.length === 0" title="No flow yet"
      >A flow is a part that several tests share, such as signing in. Choose its sentences in a test and make
      a flow of them, or begin with an empty one.</Empty
    >
    <ul v-else class="panel">
      <li
        v-for="one in shown"
        :key="one.flow.id"
        class="grid grid-cols-[minmax(0,16rem)_minmax(0,1fr)_minmax(0,18rem)_auto] items-baseline gap-4 border-b border-line px-4 py-2 last:border-0"
        data-role="flow-row"
      >
        <RouterLink
          :to="`/${one.flow.in_python ? 'code' : 'tests'}/${one.flow.id}`"
          class="truncate font-story hover:underline"
          >{{ one.flow.name }}</RouterLink
        >
        <span class="truncate text-sm text-soft">
          {{ one.flow.in_python ? 'in Python' : `${one.steps} ${one.steps === 1 ? 'sentence' : 'sentences'}`
          }}<template v-if="one.flow.takes.length">
            · takes {{ one.flow.takes.map((it) => it.name).join(', ') }}</template
          ><template v-if="one.flow.gives.length"> · gives {{ one.flow.gives.join(', ') }}</template>
        </span>
        <span class="truncate text-sm">
          <template v-if="one.uses.length">
            <span class="text-soft">called by </span>
            <RouterLink
              v-for="use in one.uses"
              :key="use.id"
              class="mr-2 hover:underline"
              :to="`/tests/${use.id}?sentence=${use.sentences[0]}`"
              >{{ use.name }}</RouterLink
            >
          </template>
          <span v-else class="text-soft">nothing calls it yet</span>
        </span>
        <button
          v-if="mayChange()"
          class="button-bare"
          :aria-label="`Delete ${one.flow.name}`"
          @click="deleting = one"
        >
          Delete
        </button>
      </li>
      <li v-if="query.data.value && shown.length === 0" class="px-4 py-3 text-soft">
        No flow has that name.
      </li>
    </ul>
    <Modal v-model:open="creating" title="New flow">
      <form class="flex flex-col gap-3 text-sm" @submit.prevent="create">
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
