<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import type { Step } from '@/api/client'
import { useTest } from '@/api/queries'

import Deed from './Deed.vue'
import LineStart from './LineStart.vue'
import { leadsTo, nameOf, roundsAt, roundsOf } from './places'
import type { Breakpoints } from './useBreakpoints'
import type { Rehearsing } from './useRehearsal'

/** The sentences of a flow that is being rehearsed, open below the sentence that called it. */
const props = defineProps<{
  flow: string
  calls: string[]
  rehearsing: Rehearsing
  breakpoints: Breakpoints
}>()

const id = computed(() => Number(props.flow))
const query = useTest(id)
const steps = computed(() => query.data.value?.steps ?? [])
const spot = props.rehearsing.spot
const path = (step: Step) => ({ calls: props.calls, step: step.id })
const at = (step: Step) => {
  if (!spot.value || nameOf(spot.value) !== nameOf(path(step))) return ''
  return props.rehearsing.held.value ? 'held' : 'playing'
}
const aimed = (step: Step) => {
  const target = props.rehearsing.target.value
  return target !== null && nameOf(target) === nameOf(path(step))
}
const mark = (step: Step) => props.rehearsing.marks.value.get(nameOf(path(step)))
/** A sentence with the values that it is played with, once it was come to. */
const text = (step: Step) =>
  mark(step)?.sentence ||
  (at(step) && spot.value?.sentence) ||
  step.parts.map((part) => part.text.replace(/\$\{\w+\.(\w+)\}/g, '$1')).join(' ')
/** The sentence in this flow at which it is, also where that calls another. */
const here = computed(() => {
  const { calls = [], step = '' } = spot.value ?? {}
  return calls[props.calls.length] ?? step
})
const rounds = computed(() =>
  roundsOf(steps.value, here.value, roundsAt(spot.value?.within ?? [], props.calls.length)),
)
const list = ref<HTMLElement | null>(null)
watch(
  [here, steps],
  async () => {
    await nextTick()
    list.value?.querySelector('[data-at=held],[data-at=playing]')?.scrollIntoView({ block: 'nearest' })
  },
  { immediate: true },
)
</script>

<template>
  <ol
    ref="list"
    class="my-1 rounded-md border border-line bg-sheet py-1"
    :aria-label="`Inside ${query.data.value?.name ?? 'the flow'}`"
    data-role="flow-in-place"
    @click.stop
  >
    <li
      v-for="(step, n) in steps"
      :key="step.id"
      class="grid grid-cols-[2.1rem_1.5rem_1fr] items-baseline gap-x-1.5 border-l-4 px-1 py-0.5"
      :class="[
        at(step) ? 'border-lit' : 'border-transparent',
        aimed(step) ? 'bg-lit-paper' : 'hover:bg-sunk',
      ]"
      :data-step="step.id"
      :data-calls="calls.join(' ')"
      :aria-current="aimed(step)"
      @click.stop="rehearsing.aim(aimed(step) ? null : path(step))"
    >
      <LineStart
        :number="n + 1"
        :place="id"
        :step="step.id"
        :breakpoints="breakpoints"
        :fixed="false"
        :outcome="mark(step)?.outcome"
        :at="at(step)"
      />
      <div class="min-w-0" :style="{ paddingLeft: `${step.depth * 1.1}rem` }">
        <p v-if="step.title" class="text-sm font-semibold wrap-anywhere">{{ step.title }}</p>
        <span class="font-story" :class="!step.enabled && 'line-through'">{{ text(step) }}</span>
        <span v-if="rounds.get(step.id)" class="chip ml-1" data-role="round">{{ rounds.get(step.id) }}</span>
        <Deed
          v-if="mark(step)"
          :thing="mark(step)!.thing"
          :contrary="mark(step)!.contrary"
          :called-so="text(step).includes(mark(step)!.thing)"
        />
        <p v-if="mark(step)?.outcome === 'failed'" class="text-sm text-bad wrap-anywhere">
          {{ mark(step)!.message }}
        </p>
        <FlowInPlace
          v-if="step.flow && leadsTo(spot, path(step))"
          :flow="step.flow"
          :calls="[...calls, step.id]"
          :rehearsing="rehearsing"
          :breakpoints="breakpoints"
        />
      </div>
    </li>
  </ol>
</template>
