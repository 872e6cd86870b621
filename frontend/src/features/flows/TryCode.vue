<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'

import { ApiProblem, api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import { useAct } from '@/shared/acting'
import Outcome from '@/shared/Outcome.vue'

/** Runs the code once as it is written now, with inputs of one's own. */
const props = defineProps<{ flow: Test; code: string }>()
const emit = defineEmits<{ troubles: [Shapes['TroubleOut'][]] }>()

const given = reactive<Record<string, string>>({})
const tried = ref<Shapes['CodeTried'] | null>(null)
const gave = computed(() => Object.entries(tried.value?.gave ?? {}))

const trying = useAct(
  () => {
    const inputs = Object.fromEntries(Object.entries(given).filter(([, text]) => text !== ''))
    const body = { code: props.code, inputs }
    return ask(api.POST('/api/flows/{id}/try', { params: { path: { id: props.flow.id } }, body }))
  },
  {
    inPlace: true,
    done: (got) => {
      tried.value = got
      if (got.error && got.line) emit('troubles', [{ line: got.line, message: got.error, hint: '' }])
    },
  },
)
const { busy } = trying
const refused = computed(() => (trying.trouble.value as Error | null)?.message ?? '')
watch(trying.trouble, (error) => {
  const line = error instanceof ApiProblem ? /^line (\d+)$/.exec(error.where)?.[1] : undefined
  if (line) emit('troubles', [{ line: Number(line), message: refused.value, hint: '' }])
})
function run() {
  tried.value = null
  emit('troubles', [])
  void trying.act()
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
