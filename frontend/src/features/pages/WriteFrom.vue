<script setup lang="ts">
import { ref, watchEffect } from 'vue'

import { api, ask } from '@/api/client'
import { useCatalogue, useEnvironments } from '@/api/queries'
import StillPanel from './StillPanel.vue'
import type { Act } from './StillPanel.vue'
import PickOne from '@/shared/PickOne.vue'
import { useTestNames } from '@/shared/lists'
import type { Named } from '@/shared/lists'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** Writing a test by picking from a saved page, without recording. */
const props = defineProps<{ saved: number; test?: Named | null }>()
defineEmits<{ close: [] }>()

const catalogue = useCatalogue()
const test = ref<Named | null>(props.test ?? null)
const name = ref('')
const environment = ref(0)
const environments = useEnvironments()
watchEffect(() => {
  if (!environment.value) environment.value = environments.data.value?.environments[0]?.id ?? 0
})

/** The test that sentences were added to, to be opened. */
const added = ref<Named | null>(null)

/** The test that the sentences go to; a new one is made when the first are added. */
async function target(): Promise<Named> {
  if (test.value) return test.value
  if (!name.value.trim()) throw new Error('The new test needs a name: give it one above.')
  const made = await ask(
    api.POST('/api/tests', { body: { name: name.value.trim(), environment: environment.value } }),
  )
  return (test.value = { id: made.id, name: made.name })
}

const adding = useAct(
  async (steps: Act[]) => {
    const to = await target()
    await ask(
      api.POST('/api/saved-pages/{id}/steps', {
        params: { path: { id: props.saved } },
        body: {
          test: to.id,
          steps: steps.map(({ node, action, inputs }) => ({ node, action, inputs })),
        },
      }),
    )
    return to
  },
  {
    stale: [['tests'], ['test'], ['pages']],
    done: (to, steps) => {
      added.value = to
      say(`${steps.length} ${steps.length === 1 ? 'sentence' : 'sentences'} added to “${to.name}”.`)
    },
  },
)
const { busy } = adding
async function act(steps: Act[], done: () => void) {
  if (await adding.act(steps)) done()
}
</script>

<template>
  <StillPanel
    v-if="catalogue.data.value"
    :saved="saved"
    :catalogue="catalogue.data.value"
    :busy="busy"
    @act="act"
    @close="$emit('close')"
  >
    <label class="mb-2 flex items-center gap-2 text-sm">
      <span class="whitespace-nowrap">to the test</span>
      <PickOne v-model="test" :list="useTestNames" label="Test" none="a new test" />
    </label>
    <div v-if="!test" class="mb-2 flex flex-col gap-1.5 text-sm">
      <input
        v-model="name"
        class="field"
        placeholder="Name of the new test"
        aria-label="Name of the new test"
      />
      <select v-model="environment" class="field" aria-label="Environment">
        <option v-for="one in environments.data.value?.environments" :key="one.id" :value="one.id">
          {{ one.name }}
        </option>
      </select>
    </div>
    <RouterLink v-if="added" class="button mb-2 block truncate text-center" :to="`/tests/${added.id}`">
      Open “{{ added.name }}”
    </RouterLink>
  </StillPanel>
</template>
