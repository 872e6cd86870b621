<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import WhyAnswers from '@/features/rehearsing/WhyAnswers.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** Why a sentence did not find its element, told from the page that was saved when it failed. */
const props = defineProps<{ result: number; step: string }>()
const emit = defineEmits<{ lit: [boxes: Record<string, number>[]]; defect: [] }>()
const asked = ref(false)
const query = useQuery({
  queryKey: computed(() => ['why', props.result]),
  queryFn: () => ask(api.GET('/api/results/{id}/search', { params: { path: { id: props.result } } })),
  enabled: asked,
})
const found = computed(() => query.data.value)
const mending = useAct(
  (body: Shapes['MendAsk']) =>
    ask(api.POST('/api/tests/{id}/mend', { params: { path: { id: found.value!.place } }, body })),
  {
    stale: [['test'], ['element'], ['pages']],
    done: () => say('Done in the test. Run it once more to see.'),
  },
)
function act(what: Shapes['MendAsk']['act'], given: Record<string, unknown>) {
  if (what === 'raise defect') emit('defect')
  else
    void mending.act({
      step: props.step,
      act: what,
      given: given as Record<string, never>,
      key: crypto.randomUUID(),
    })
}
</script>

<template>
  <section class="panel px-3 py-2 text-sm" aria-label="Why was it not found?" data-role="why-result">
    <button v-if="!asked" class="button" data-role="search-result" @click="asked = true">
      Why was it not found?
    </button>
    <template v-else>
      <p class="font-semibold">Why it was not found, or could not be used</p>
      <p v-if="query.isLoading.value" class="text-soft">Looking at the page as it was…</p>
      <Trouble :error="query.error.value" />
      <p v-if="found && !found.answers.length" class="text-soft">Nothing was found out.</p>
      <WhyAnswers
        v-if="found"
        :answers="found.answers"
        :disabled="!mayChange()"
        @lit="emit('lit', $event)"
        @act="act"
      />
    </template>
  </section>
</template>
