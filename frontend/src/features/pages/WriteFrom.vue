<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watchEffect } from 'vue'

import { api, ask } from '@/api/client'
import { useCatalogue, useTests } from '@/api/queries'
import StillPanel from '@/features/workbench/StillPanel.vue'
import type { Act } from '@/features/workbench/StillPanel.vue'
import { complain, say } from '@/shared/notes'

/** Writing a test by picking from a saved page, without recording. */
const props = defineProps<{ saved: number; test?: number | null }>()
defineEmits<{ close: [] }>()

const queries = useQueryClient()
const tests = useTests()
const catalogue = useCatalogue()
const test = ref(props.test ?? 0)
const busy = ref(false)
watchEffect(() => {
  if (!test.value) test.value = tests.data.value?.tests[0]?.id ?? 0
})

async function act(steps: Act[]) {
  busy.value = true
  try {
    await ask(
      api.POST('/api/saved-pages/{id}/steps', {
        params: { path: { id: props.saved } },
        body: {
          test: test.value,
          steps: steps.map(({ node, action, inputs }) => ({ node, action, inputs })),
        },
      }),
    )
    const name = tests.data.value?.tests.find((one) => one.id === test.value)?.name
    say(`${steps.length} ${steps.length === 1 ? 'sentence' : 'sentences'} added to “${name}”.`)
    await queries.invalidateQueries({ queryKey: ['test', test.value] })
  } catch (error) {
    complain(error)
  }
  busy.value = false
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
      <select v-model="test" class="field" aria-label="Test">
        <option v-for="one in tests.data.value?.tests" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
    </label>
  </StillPanel>
</template>
