<script setup lang="ts">
import { ChevronDown, ChevronRight } from '@lucide/vue'
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

import Beams from './Beams.vue'
import SayOtherwise from './SayOtherwise.vue'
import Signs from './Signs.vue'
import { meaning, percent } from './kinds'

/** One cause of failures: whose fault it is, why, how many failed of it, and what to do next. */
const props = defineProps<{ cause: Shapes['CauseOut']; run?: number }>()
defineEmits<{ open: [failure: Shapes['FailureOut']]; raise: [] }>()
const wide = ref(false)
const correcting = ref(false)
const verdict = computed(() => props.cause.verdict)
const first = computed(() => props.cause.failures[0]!)
const share = computed(() => Math.max(...Object.values(verdict.value.shares)))
const tests = computed(() => new Set(props.cause.failures.map((one) => one.test_name)).size)
const count = computed(() => {
  const failures = props.cause.count
  const rows = failures === 1 ? '1 failure' : `${failures} failures`
  return tests.value > 1 ? `${rows} in ${tests.value} tests` : rows
})
const strongest = computed(
  () => verdict.value.signs.find((one) => one.weight > 0)?.told ?? verdict.value.wants,
)
const link = computed(() => {
  const { test, place } = first.value
  return place ? `/tests/${test}?sentence=${place}` : `/tests/${test}`
})
const again = useAct(
  () =>
    ask(
      api.POST('/api/tests/{id}/runs', {
        params: { path: { id: first.value.test! } },
        body: { kind: 'run', rows: `failed of ${first.value.run}` },
      }),
    ),
  { stale: [['runs']], done: (made) => say(`The rows that failed are played again in run ${made.run.id}.`) },
)
const takingBack = useAct(
  (id: number) => ask(api.DELETE('/api/corrections/{id}', { params: { path: { id } } })),
  { stale: [['causes'], ['verdict']] },
)
</script>

<template>
  <li class="border-b border-line px-3 py-2 last:border-b-0" data-role="cause" :data-kind="cause.kind">
    <div class="flex items-start gap-4">
      <div class="w-44 shrink-0">
        <p class="font-story text-lg leading-tight" :title="meaning(cause.kind)">
          {{ cause.kind }}
          <span v-if="verdict.said" class="font-sans text-xs text-soft"
            >said by {{ verdict.said.author }}</span
          >
          <span v-else-if="cause.kind !== 'not clear'" class="font-sans text-sm text-soft">{{
            percent(share)
          }}</span>
        </p>
        <Beams :shares="verdict.shares" class="mt-1" />
      </div>
      <div class="min-w-0 flex-1 text-sm">
        <p class="flex flex-wrap items-baseline gap-x-3">
          <b class="font-semibold" data-role="count">{{ count }}</b>
          <span class="font-story wrap-anywhere">{{ cause.sentence }}</span>
        </p>
        <p class="mt-0.5 wrap-anywhere text-soft" data-role="strongest">{{ strongest }}</p>
        <p v-if="verdict.said" class="mt-0.5 text-odd" data-role="said">
          {{ verdict.said.author }} says {{ verdict.said.kind }}; Lantern had said {{ verdict.verdict
          }}{{ verdict.said.word ? `: “${verdict.said.word}”` : '' }}
          <button v-if="mayChange()" class="underline" @click="takingBack.act(verdict.said!.id)">
            Take back
          </button>
        </p>
      </div>
      <div class="flex shrink-0 flex-wrap justify-end gap-2">
        <RouterLink v-if="cause.defect" class="button" :to="`/defects/${cause.defect}`"
          >Defect {{ cause.defect }}</RouterLink
        >
        <template v-if="mayChange()">
          <button
            v-if="!cause.defect && (verdict.act === 'raise defect' || wide)"
            class="button"
            data-role="raise"
            @click="$emit('raise')"
          >
            {{ cause.failures.length > 1 ? 'One defect for all' : 'Raise a defect' }}
          </button>
          <button v-if="verdict.act === 'accept repair'" class="button" @click="$emit('open', first)">
            Look at the repair
          </button>
          <RouterLink v-if="verdict.act === 'edit value' && first.test" class="button" :to="link"
            >Edit the value{{ verdict.given.column ? ` of ${verdict.given.column}` : '' }}</RouterLink
          >
          <RouterLink v-if="verdict.act === 'edit sentence' && first.test" class="button" :to="link"
            >Edit the sentence</RouterLink
          >
          <RouterLink v-if="verdict.act === 'raise limit' && first.test" class="button" :to="link"
            >Raise the limit</RouterLink
          >
          <button
            v-if="verdict.act === 'run again' && first.test"
            class="button"
            :disabled="again.busy.value"
            @click="again.act()"
          >
            Run again
          </button>
        </template>
        <button
          class="button"
          :aria-expanded="wide"
          :aria-label="`Why: ${cause.sentence}`"
          @click="wide = !wide"
        >
          <component :is="wide ? ChevronDown : ChevronRight" :size="14" aria-hidden="true" /> Why
        </button>
      </div>
    </div>
    <div v-if="wide" class="mt-2 grid grid-cols-[1fr_18rem] gap-4 border-t border-line pt-2">
      <div>
        <Signs :verdict="verdict" />
        <section v-if="verdict.green" class="mt-2 text-sm" data-role="changed">
          <h3 class="font-semibold">Changed since it passed</h3>
          <p v-if="!verdict.changed.length" class="text-soft">
            Nothing: the test, the row, the environment, the release and the browser are as they were.
          </p>
          <ul v-else class="list-disc pl-4">
            <li v-for="one in verdict.changed" :key="one" class="wrap-anywhere">{{ one }}</li>
          </ul>
        </section>
        <p v-if="verdict.wants" class="mt-2 text-sm text-soft">{{ verdict.wants }}</p>
        <p class="mt-2 flex gap-4 text-sm">
          <RouterLink v-if="verdict.green" class="underline" :to="`/runs/${verdict.green}`"
            >Held against run {{ verdict.green }}, when it passed</RouterLink
          >
          <button v-if="mayChange()" class="underline" data-role="correct" @click="correcting = true">
            It is something else
          </button>
        </p>
      </div>
      <ul class="max-h-48 overflow-auto text-sm" aria-label="Failures of this cause">
        <li v-for="one in cause.failures" :key="one.result">
          <button class="w-full truncate text-left hover:underline" @click="$emit('open', one)">
            {{ run ? '' : `${one.test_name} · ` }}{{ one.number ? `row ${one.number}` : 'the only row' }}
            <span class="text-soft">{{ one.browser }}</span>
          </button>
        </li>
        <li v-if="cause.count > cause.failures.length" class="text-soft">
          and {{ (cause.count - cause.failures.length).toLocaleString('en') }} more
        </li>
      </ul>
    </div>
    <SayOtherwise
      v-if="correcting"
      v-model:open="correcting"
      :result="first.result"
      :verdict="verdict"
      :many="cause.count"
    />
  </li>
</template>
