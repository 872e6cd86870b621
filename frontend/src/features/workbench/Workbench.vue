<script setup lang="ts">
import { computed, ref } from 'vue'

import OthersHere from '@/features/editing/OthersHere.vue'
import RaiseDefect from '@/features/defects/RaiseDefect.vue'
import RehearsalBar from '@/features/rehearsing/RehearsalBar.vue'
import RehearseButton from '@/features/rehearsing/RehearseButton.vue'
import type { Part } from '@/features/rehearsing/parts'
import Draft from '@/shared/Draft.vue'
import Labels from '@/shared/Labels.vue'
import Splitter from '@/shared/Splitter.vue'
import Trouble from '@/shared/Trouble.vue'

import DataCheck from './DataCheck.vue'
import MakeFlow from './MakeFlow.vue'
import RunControls from './RunControls.vue'
import SplitTest from './SplitTest.vue'
import StageArea from './StageArea.vue'
import StageButtons from './StageButtons.vue'
import Story from './Story.vue'
import WorkbenchDrawer from './WorkbenchDrawer.vue'
import { provideWorkbench, useWorkbench } from './useWorkbench'

/** One test: stage and story side by side, the drawer below, and what is done with all of it above. */
const bench = useWorkbench()
provideWorkbench(bench)
const { query, catalogue, test, edits, fixed, chosen, checks, still, running, playing } = bench
const { recording, paused, busy, rehearsing } = bench
const { there: rehearsed } = rehearsing
const { checking } = checks
const { going, checked, results } = running
const { story } = bench.drawer.layout

/** The environment that runs go to, where that is not the one of the test and its stage. */
const elsewhere = ref(0)
const flowing = ref<string[]>([])
const splitting = ref('')

/** The failure at which the rehearsal is held, as a defect is raised from it. */
const raised = computed(() => {
  const { failed, spot } = rehearsing.state.value ?? {}
  if (!failed || !spot || !test.value) return null
  const { reason, message, expected, found } = failed
  const before = rehearsing.steps.value.filter((one) => one.outcome !== 'skipped').map((one) => one.sentence)
  const { sentence, step } = spot
  return { test: test.value.id, step, sentence, reason, message, expected, found, before }
})
/** Play up to a sentence: in a rehearsal that is held it goes on from where it is. */
function playTo(step: string) {
  if (rehearsing.held.value) void rehearsing.onTo({ calls: [], step })
  else playing.playTo(step, false)
}
const rename = (name: string) => (name.trim() ? edits.rename(name) : undefined)
</script>

<template>
  <div class="flex h-full flex-col">
    <Trouble :error="query.error.value" class="m-4" />
    <template v-if="test && catalogue.data.value">
      <div class="flex flex-wrap items-center gap-2 border-b border-line bg-sheet px-3 py-1.5">
        <h1 class="sr-only">{{ test.name }}</h1>
        <Draft
          class="min-w-40 flex-1 truncate rounded border border-transparent bg-transparent px-1 font-story text-lg hover:border-line"
          :value="test.name"
          :keep="`name of test ${test.id}`"
          :disabled="fixed"
          aria-label="Name of the test"
          @save="rename"
        />
        <span v-if="test.kind === 'flow'" class="chip shrink-0">flow</span>
        <Labels
          v-if="test.kind === 'test'"
          :labels="test.labels"
          :of="test.name"
          :fixed="fixed"
          @add="edits.edit({ do: 'set labels', add: [$event] })"
          @remove="edits.edit({ do: 'set labels', remove: [$event] })"
        />
        <OthersHere :test="test" @choose="chosen = [$event]" />
        <template v-if="!fixed">
          <StageButtons
            v-model:checking="checking"
            :recording="recording"
            :paused="paused"
            :busy="busy"
            @record="bench.record"
            @still="still.saved ? still.close() : bench.takeStill()"
          />
          <span class="mx-1 h-5 border-l border-line" />
          <RehearseButton
            :test="test"
            :chosen="chosen.at(-1) ?? ''"
            :disabled="busy || going || rehearsing.on.value"
            :elsewhere="elsewhere !== 0"
            @begin="rehearsing.begin($event)"
          />
          <RunControls
            v-model:environment="elsewhere"
            :test="test"
            :going="going"
            @start="running.start($event)"
            @cancel="running.cancel"
          />
        </template>
      </div>
      <RehearsalBar
        v-if="rehearsed || rehearsing.lacks.value"
        :rehearsing="rehearsing"
        :test="test"
        :chosen="chosen.at(-1) ?? ''"
        @show="bench.showPart($event as Part)"
      />
      <div class="flex min-h-0 flex-1">
        <StageArea class="flex-1" :test="test" :catalogue="catalogue.data.value" />
        <Splitter
          v-show="!bench.alone.value"
          label="Width of the story"
          :size="story.size.value"
          :least="story.least"
          :most="story.most.value"
          @size="story.size.value = $event"
          @usual="story.usual"
        />
        <Story
          v-show="!bench.alone.value"
          v-model:chosen="chosen"
          class="shrink-0"
          :style="{ width: `${story.size.value}px` }"
          :test="test"
          :catalogue="catalogue.data.value"
          :edits="edits"
          :fixed="fixed"
          :recording="recording"
          :results="results.data.value?.results ?? []"
          :running="bench.stepNow.value"
          :rehearsing="rehearsing"
          :breakpoints="bench.breakpoints"
          @edit="bench.element.edit"
          @record-from="playing.playTo($event, true)"
          @record-in-place="playing.recordInPlace"
          @play-to="playTo"
          @sweep="bench.sweep"
          @try-without="playing.tryWithout"
          @prove="playing.prove"
          @make-flow="flowing = $event"
          @put-back="edits.putBack($event)"
          @split="splitting = $event"
        />
      </div>
      <WorkbenchDrawer :test="test" :catalogue="catalogue.data.value" />
      <DataCheck
        v-if="checked"
        :found="checked.found"
        :ahead="Boolean(checked.ahead)"
        :fixed="fixed"
        @close="checked = null"
        @run="checked.ahead && running.start(checked.ahead, true)"
        @show="bench.showProblem"
        @fix="bench.fixProblem"
      />
      <MakeFlow v-if="flowing.length" :test="test" :steps="flowing" @done="((flowing = []), (chosen = []))" />
      <RaiseDefect
        v-if="raised && bench.raising.value"
        v-model:open="bench.raising.value"
        :failure="raised"
      />
      <SplitTest v-if="splitting" :test="test" :step="splitting" @close="splitting = ''" />
    </template>
  </div>
</template>
