<script setup lang="ts">
import { ChevronDown, ChevronUp, ShieldCheck, TriangleAlert } from '@lucide/vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useProof } from '@/api/queries'
import { useAct } from '@/shared/acting'

/** Whether playing the story does what was done while recording it, and where it does not. */
const props = defineProps<{ test: Shapes['TestOut']; fixed: boolean; recording: boolean; busy: boolean }>()
const emit = defineEmits<{ prove: []; choose: [step: string] }>()

const queries = useQueryClient()
const query = useProof(computed(() => props.test.id))
const proof = computed(() => query.data.value)
const open = ref(false)
const found = computed(() => proof.value?.found.filter((one) => number(one.step) > 0) ?? [])
const due = computed(() => proof.value?.due && props.test.steps.length > 1)
const shows = computed(() => !props.recording && proof.value && (due.value || found.value.length > 0))
const number = (id: string) => props.test.steps.findIndex((step) => step.id === id) + 1

watch([() => props.recording, () => props.busy], () => void query.refetch())
watch(found, (now, before) => {
  if (now.length && !before?.length) open.value = true
})

const { act: setAside } = useAct(
  (lines: string[]) =>
    ask(
      api.POST('/api/tests/{id}/proof/aside', { params: { path: { id: props.test.id } }, body: { lines } }),
    ),
  { done: (now) => queries.setQueryData(['proof', props.test.id], now) },
)
</script>

<template>
  <div v-if="shows" class="border-b border-line bg-sheet px-4 py-1 text-sm" data-role="proof">
    <p class="flex items-center gap-2">
      <template v-if="due">
        <ShieldCheck :size="16" class="shrink-0 text-soft" />
        {{ proof?.at ? 'Recorded on since it was proved.' : 'Recorded, but not played yet.' }}
        <button
          v-if="!fixed"
          class="button ml-auto"
          :disabled="busy"
          title="Play it once on a fresh stage and compare every page with what the recording saw"
          @click="emit('prove')"
        >
          Prove it
        </button>
      </template>
      <template v-else>
        <TriangleAlert :size="16" class="shrink-0 text-odd" />
        {{
          found.length === 1
            ? 'One sentence did something else than while recording.'
            : `${found.length} sentences did something else than while recording.`
        }}
        <button class="button-bare ml-auto" :aria-expanded="open" @click="open = !open">
          <component :is="open ? ChevronUp : ChevronDown" :size="16" /> {{ open ? 'Fold' : 'Show' }}
        </button>
      </template>
    </p>
    <div v-if="open && !due" class="max-h-56 overflow-auto pb-1">
      <div v-for="one in found" :key="one.step" class="mt-1">
        <button class="text-left font-story hover:underline" @click="emit('choose', one.step)">
          {{ number(one.step) }} · {{ one.sentence }}
        </button>
        <ul class="ml-4 list-disc text-soft">
          <li v-for="told in one.told.slice(0, 6)" :key="told.said" class="group wrap-anywhere">
            {{ told.said }}
            <button
              v-if="!fixed && told.line"
              class="button-bare text-xs opacity-60 group-hover:opacity-100 focus:opacity-100"
              title="It moves by itself, as a clock or a counter does: never tell of it again"
              @click="setAside([told.line])"
            >
              Set aside
            </button>
          </li>
          <li v-if="one.told.length > 6">and {{ one.told.length - 6 }} more</li>
        </ul>
      </div>
      <p v-if="!fixed" class="mt-2 flex gap-2">
        <button class="button" :disabled="busy" @click="emit('prove')">Prove it again</button>
      </p>
    </div>
  </div>
</template>
