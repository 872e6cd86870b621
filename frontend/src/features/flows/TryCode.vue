<script setup lang="ts">
import { computed, reactive, ref } from 'vue'

import { ApiProblem, api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'

/** Runs the code once as it is written now, with inputs of one's own. */
const props = defineProps<{ flow: Test; code: string }>()
const emit = defineEmits<{ troubles: [Shapes['TroubleOut'][]] }>()

const given = reactive<Record<string, string>>({})
const busy = ref(false)
const tried = ref<Shapes['CodeTried'] | null>(null)
const refused = ref('')
const gave = computed(() => Object.entries(tried.value?.gave ?? {}))

async function run() {
  busy.value = true
  refused.value = ''
  tried.value = null
  emit('troubles', [])
  try {
    const inputs = Object.fromEntries(Object.entries(given).filter(([, text]) => text !== ''))
    const path = { id: props.flow.id }
    const body = { code: props.code, inputs }
    tried.value = await ask(api.POST('/api/flows/{id}/try', { params: { path }, body }))
    const { error, line } = tried.value
    if (error && line) emit('troubles', [{ line, message: error, hint: '' }])
  } catch (error) {
    const problem = error as Error
    const line = error instanceof ApiProblem ? /^line (\d+)$/.exec(error.where)?.[1] : undefined
    refused.value = problem.message
    if (line) emit('troubles', [{ line: Number(line), message: problem.message, hint: '' }])
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="mb-4" data-role="try-code" @submit.prevent="run">
    <h2 class="mb-1 font-semibold">Try it</h2>
    <label v-for="one in flow.takes" :key="one.name" class="mb-1 flex items-center gap-2">
      <span class="w-24 shrink-0 truncate" :title="one.name">{{ one.name }}</span>
      <input
        v-model="given[one.name]"
        class="field"
        :placeholder="one.default || one.kind"
        :aria-label="`${one.name} for the trial`"
      />
    </label>
    <button class="button mt-1" :disabled="busy" title="Runs what is written here now; nothing is kept">
      {{ busy ? 'Running…' : 'Run it once' }}
    </button>
    <div v-if="tried" class="mt-2" data-role="tried">
      <p class="flex items-center gap-2">
        <Outcome :outcome="tried.error ? 'failed' : 'passed'" />
        <span class="text-soft">in {{ tried.seconds }} s</span>
      </p>
      <p v-if="tried.error" class="wrap-anywhere text-bad">
        <template v-if="tried.line">Line {{ tried.line }}: </template>{{ tried.error }}
      </p>
      <dl v-else class="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3">
        <template v-for="[name, text] in gave" :key="name">
          <dt class="text-soft">{{ name }}</dt>
          <dd class="wrap-anywhere whitespace-pre-wrap">{{ text }}</dd>
        </template>
      </dl>
    </div>
    <p v-if="refused" class="mt-2 text-bad">{{ refused }}</p>
  </form>
</template>
