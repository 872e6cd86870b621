<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import Outcome from '@/shared/Outcome.vue'
import { say } from '@/shared/notes'

import type { PlayedStep, Rehearsing } from './useRehearsal'

/** What each sentence did: what was looked for and found, and how long each part took. */
const props = defineProps<{ rehearsing: Rehearsing }>()
const words = ref('')
const only = ref('')
const MOST = 300

const text = (step: PlayedStep): string =>
  [
    `${step.outcome}\t${step.seconds.toFixed(2)} s\t${[...step.within, step.sentence].join(' › ')}`,
    ...(step.thing ? [`\tacted on “${step.thing}”`] : []),
    ...(step.contrary ? [`\t${step.contrary}`] : []),
    ...(step.message ? [`\t${step.message}`] : []),
    ...step.parts.map(
      (part) =>
        `\t${part.seconds.toFixed(3)} s\t${part.told}${part.times > 1 ? ` (${part.times} times)` : ''}`,
    ),
  ].join('\n')
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  return props.rehearsing.steps.value.filter(
    (step) =>
      (!only.value || step.outcome === only.value) && (!wanted || text(step).toLowerCase().includes(wanted)),
  )
})
const whole = () => shown.value.map(text).join('\n')
async function copy() {
  await navigator.clipboard.writeText(whole())
  say('The trace is copied.')
}
function save() {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([`${whole()}\n`], { type: 'text/plain' }))
  link.download = 'trace.txt'
  link.click()
  URL.revokeObjectURL(link.href)
}
const list = ref<HTMLElement | null>(null)
watch(
  () => shown.value.length,
  async () => {
    await nextTick()
    list.value?.scrollTo({ top: list.value.scrollHeight })
  },
  { immediate: true },
)
</script>

<template>
  <div class="flex h-full min-h-0 flex-col text-sm" data-role="trace">
    <div class="flex items-center gap-2 border-b border-line px-3 py-1">
      <input
        v-model="words"
        class="field max-w-64"
        type="search"
        placeholder="Filter"
        aria-label="Filter the trace"
      />
      <select v-model="only" class="field w-auto" aria-label="Outcome">
        <option value="">all</option>
        <option>passed</option>
        <option>failed</option>
        <option>skipped</option>
      </select>
      <span class="text-soft">{{ shown.length }} {{ shown.length === 1 ? 'sentence' : 'sentences' }}</span>
      <button class="button ml-auto" :disabled="!shown.length" @click="copy">Copy</button>
      <button class="button" :disabled="!shown.length" @click="save">Save as a file</button>
    </div>
    <div ref="list" class="min-h-0 flex-1 overflow-auto px-3 py-1">
      <p v-if="!shown.length" class="py-1 text-soft">Nothing was rehearsed yet that fits.</p>
      <p v-if="shown.length > MOST" class="text-soft">The last {{ MOST }} of {{ shown.length }} are shown.</p>
      <div
        v-for="(step, n) in shown.slice(-MOST)"
        :key="n"
        class="border-b border-line py-1"
        data-role="traced"
      >
        <p class="flex items-baseline gap-2">
          <Outcome :outcome="step.outcome" bare />
          <span v-for="one in step.within" :key="one" class="chip">{{ one }}</span>
          <span class="font-story wrap-anywhere">{{ step.sentence }}</span>
          <span class="ml-auto shrink-0 text-xs text-soft">{{ step.seconds.toFixed(2) }} s</span>
        </p>
        <p v-if="step.contrary" class="ml-5 text-odd">{{ step.contrary }}</p>
        <p v-else-if="step.thing" class="ml-5 text-soft">acted on “{{ step.thing }}”</p>
        <p v-if="step.message" class="ml-5 text-bad wrap-anywhere">{{ step.message }}</p>
        <p v-for="(part, place) in step.parts" :key="place" class="ml-5 flex gap-2 text-soft">
          <span class="min-w-0 flex-1 wrap-anywhere"
            >{{ part.told }}<template v-if="part.times > 1"> ({{ part.times }} times)</template></span
          >
          <span class="shrink-0 text-xs">{{ part.seconds.toFixed(3) }} s</span>
        </p>
      </div>
    </div>
  </div>
</template>
