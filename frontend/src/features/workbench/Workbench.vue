<script setup lang="ts">
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useHere } from '@/api/presence'
import { useCatalogue, useTest } from '@/api/queries'
import ElementEditor from '@/features/pages/ElementEditor.vue'
import type { Verdict } from '@/features/pages/ElementEditor.vue'
import RowsGrid from '@/features/tables/RowsGrid.vue'
import Draft from '@/shared/Draft.vue'
import Trouble from '@/shared/Trouble.vue'
import { complain, say } from '@/shared/notes'
import { useRouteId } from '@/shared/routeId'

import CallingPanel from './CallingPanel.vue'
import CheckPanel from './CheckPanel.vue'
import ConstantsPanel from './ConstantsPanel.vue'
import DataCheck from './DataCheck.vue'
import DrawerTabs from './DrawerTabs.vue'
import FilesPanel from './FilesPanel.vue'
import LivePicture from '@/features/live/LivePicture.vue'
import MakeFlow from './MakeFlow.vue'
import OthersHere from '@/features/editing/OthersHere.vue'
import RunControls from './RunControls.vue'
import RunPanel from './RunPanel.vue'
import SettingsPanel from './SettingsPanel.vue'
import ShapePanel from './ShapePanel.vue'
import SplitTest from './SplitTest.vue'
import Stage from './Stage.vue'
import StageButtons from './StageButtons.vue'
import StillPanel from '@/features/pages/StillPanel.vue'
import Story from './Story.vue'
import TextPanel from './TextPanel.vue'
import VersionsPanel from './VersionsPanel.vue'
import { HEIGHTS } from './drawer'
import type { Tab } from './drawer'
import { useEdits } from '@/features/editing/useEdits'
import { usePlaying } from './usePlaying'
import { useRunning } from './useRunning'
import { useStill } from './useStill'
import type { Asked, Picked, Tried } from '@/features/live/useLive'

const route = useRoute()
const router = useRouter()
const query = useTest(useRouteId())
const catalogue = useCatalogue()
const test = computed(() => query.data.value)
const edits = useEdits(test)
const fixed = computed(() => !mayChange())

const stage = ref<InstanceType<typeof Stage> | null>(null)
const grid = ref<InstanceType<typeof RowsGrid> | null>(null)
const recording = ref(false)
const checking = ref(false)
const paused = ref(false)
const picked = ref<Picked | null>(null)
const chosen = ref<string[]>([])
const tab = ref<Tab>('rows')
const folded = ref(false)
const splitting = ref('')

const tried = ref<Tried[]>([])
const repicking = ref(false)
const repicked = ref<object | null>(null)
const verdict = ref<Verdict | null>(null)
const element = ref('')
const flowing = ref<string[]>([])
const usual = computed<Tab>(() => (test.value?.kind === 'flow' ? 'calling' : 'rows'))
watch(usual, (now) => (tab.value = now), { immediate: true })
const busy = ref(false)
const send = (message: Asked) => stage.value?.send(message)
const still = reactive(useStill(send, busy, folded))
const onStage = usePlaying(test, edits, send, busy, () => {
  still.saved = 0
  paused.value = false
  if (checking.value) endChecks()
})
const { playing } = onStage
function takeStill() {
  if (recording.value) record(false, true)
  still.take()
}

const running = useRunning(test, edits, () => show('run'))
const { run, results, going, row, live, rowId, checked, clean } = running
const stepNow = computed(() => {
  if (playing.value) return playing.value
  return row.value?.outcome === 'running' ? row.value.current_step : ''
})
const shine = computed(() => {
  const step = test.value?.steps.find((one) => one.id === chosen.value.at(-1))
  return chosen.value.length === 1 && !recording.value ? (step?.element ?? '') : ''
})

useHere(
  () => test.value?.id ?? 0,
  () => chosen.value.at(-1) ?? '',
  () => (recording.value ? 'recording' : playing.value ? 'rehearsing' : ''),
)

watch([() => stage.value, () => route.query.record], ([there, wanted]) => {
  if (there && wanted) void router.replace({ query: {} })
})
watch(checking, (on) => {
  if (!on && !picked.value && tab.value === 'check') tab.value = usual.value
})
watch(
  [() => route.query.sentence, () => test.value?.steps.length],
  ([number]) => {
    const step = test.value?.steps[Number(number) - 1]
    if (number && step) chosen.value = [step.id]
  },
  { immediate: true },
)

function record(on: boolean, pause = false) {
  stage.value?.record(on)
  paused.value = pause
}

function onPicked(what: Picked) {
  picked.value = what
  tried.value = []
  tab.value = 'check'
  folded.value = false
}
function edit(key: string) {
  element.value = key
  verdict.value = null
  repicked.value = null
  tab.value = 'element'
  folded.value = false
}
watch(shine, (key) => {
  if (tab.value === 'element' && key && key !== element.value) edit(key)
})
async function sweep() {
  const idle = test.value?.steps.filter((step) => step.idle).map((step) => step.id) ?? []
  if (idle.length && (await edits.edit({ do: 'remove', steps: idle })))
    say(`${idle.length} ${idle.length === 1 ? 'sentence' : 'sentences'} swept out.`, () => void edits.undo())
}
function endChecks() {
  picked.value = null
  checking.value = false
  tab.value = usual.value
}

function show(which: Tab) {
  tab.value = which
  folded.value = false
}
async function showProblem(problem: Shapes['CellProblemOut']) {
  checked.value = null
  chosen.value = [problem.step]
  show(usual.value)
  await nextTick()
  grid.value?.goTo(problem.row, problem.column)
}

/** Put a value that would fit in the place of one that does not, then look again. */
async function fixProblem(problem: Shapes['CellProblemOut'], value: string) {
  const ahead = checked.value?.ahead
  const { row, row_id, column, step, input } = problem
  const done = row
    ? await edits.edit({ do: 'set cells', cells: [{ row: row_id, column, value }] })
    : await edits.edit({ do: 'change', step, fields: { inputs: { [input]: value } } })
  try {
    if (done && (await running.checkData(ahead?.rows ?? 'all', ahead)) && ahead)
      void running.start(ahead, true)
  } catch (error) {
    complain(error)
  }
}

function rename(name: string) {
  if (name.trim()) void edits.rename(name)
}
</script>

<template>
  <div class="flex h-full flex-col">
    <Trouble :error="query.error.value" class="m-4" />
    <template v-if="test && catalogue.data.value">
      <div class="flex items-center gap-2 border-b border-line bg-sheet px-3 py-1.5">
        <Draft
          class="min-w-0 flex-1 truncate rounded border border-transparent bg-transparent px-1 font-story text-lg hover:border-line"
          :value="test.name"
          :disabled="fixed"
          aria-label="Name of the test"
          @save="rename"
        />
        <span v-if="test.kind === 'flow'" class="chip shrink-0">flow</span>
        <OthersHere :test="test" @choose="chosen = [$event]" />
        <template v-if="!fixed">
          <StageButtons
            v-model:checking="checking"
            :recording="recording"
            :paused="paused"
            :busy="busy"
            @record="record"
            @still="still.saved ? still.close() : takeStill()"
          />
          <span class="mx-1 h-5 border-l border-line" />
          <RunControls :test="test" :going="going" @start="running.start($event)" @cancel="running.cancel" />
        </template>
      </div>
      <div
        class="grid min-h-0 flex-1"
        :class="
          still.saved && still.wide
            ? 'grid-cols-1'
            : 'grid-cols-[minmax(0,1fr)_30rem] max-[1150px]:grid-cols-[minmax(0,1fr)_24rem]'
        "
      >
        <div class="flex min-h-0 flex-col">
          <div v-if="going" class="relative min-h-0 flex-1 overflow-auto bg-sunk p-2">
            <LivePicture v-if="live" :key="live.id" :path="`/api/live/cast/${live.id}`" />
            <p v-else class="panel p-3 text-sm text-soft">Waiting for a station to begin…</p>
          </div>
          <Stage
            v-if="!fixed"
            v-show="!going && !still.saved"
            ref="stage"
            v-model:recording="recording"
            v-model:checking="checking"
            v-model:repicking="repicking"
            class="flex-1"
            :test-id="test.id"
            :start="test.environment.address"
            :shine="shine"
            @picked="onPicked"
            @checked="endChecks"
            @still="still.taken"
            @peeked="still.peeked = $event"
            @tried="tried = $event"
            @verdict="verdict = $event"
            @repicked="repicked = $event"
            @playing="playing = $event"
            @played="onStage.played"
            @proved="onStage.proved"
          />
          <StillPanel
            v-if="still.saved && !going"
            v-model:wide="still.wide"
            class="flex-1"
            live
            :saved="still.saved"
            :catalogue="catalogue.data.value"
            :busy="busy"
            :before="still.before"
            :peeked="still.peeked"
            @peek="stage?.send({ type: 'peek', node: $event })"
            @act="still.act"
            @again="takeStill"
            @close="still.close()"
          />
          <p v-if="fixed" class="flex flex-1 items-center justify-center text-soft">
            A viewer reads the story; testers use the stage.
          </p>
        </div>
        <Story
          v-show="!(still.saved && still.wide)"
          v-model:chosen="chosen"
          :test="test"
          :catalogue="catalogue.data.value"
          :edits="edits"
          :fixed="fixed"
          :recording="recording"
          :results="results.data.value?.results ?? []"
          :running="stepNow"
          @edit="edit"
          @record-from="onStage.playTo($event, true)"
          @record-in-place="onStage.recordInPlace"
          @play-to="onStage.playTo($event, false)"
          @sweep="sweep"
          @try-without="onStage.tryWithout"
          @prove="onStage.prove"
          @make-flow="flowing = $event"
          @put-back="edits.putBack($event)"
          @split="splitting = $event"
        />
      </div>
      <section
        class="flex shrink-0 flex-col border-t border-line bg-sheet"
        :class="folded ? '' : (HEIGHTS[tab] ?? 'h-[13.5rem]')"
        aria-label="Drawer"
      >
        <DrawerTabs
          v-model:tab="tab"
          v-model:folded="folded"
          :flow="test.kind === 'flow'"
          :rows="test.row_count"
          :element="element !== ''"
          :check="picked !== null"
        />
        <p
          v-if="clean && tab === 'run' && !fixed && !folded"
          class="flex items-center gap-2 border-b border-line bg-lit-paper px-4 py-1 text-sm text-lit-ink"
          data-role="offer-baseline"
        >
          The first clean run. Mark it as the baseline, to hold later failures against what changed?
          <button class="button ml-auto" @click="edits.setBaseline(clean.version)">Mark as baseline</button>
          <button class="button-bare" @click="running.declined.value = clean.run.id">Not now</button>
        </p>
        <div v-show="!folded" class="min-h-0 flex-1">
          <RowsGrid
            v-if="tab === 'rows'"
            ref="grid"
            :test="test"
            :edits="edits"
            :fixed="fixed"
            @check="running.checkData('all').catch(complain)"
          />
          <ElementEditor
            v-else-if="tab === 'element' && element"
            :id="element"
            :key="element"
            :live="!fixed"
            :within="test.id"
            :verdict="verdict"
            :repicked="repicked"
            @try="stage?.send({ type: 'try', element: $event })"
            @repick="((still.saved = 0), (repicking = true))"
            @gone="((element = ''), (tab = usual))"
          />
          <ConstantsPanel
            v-else-if="tab === 'values' && catalogue.data.value"
            :test="test"
            :catalogue="catalogue.data.value"
            :edits="edits"
            :fixed="fixed"
            @choose="chosen = [$event]"
          />
          <CallingPanel v-else-if="tab === 'calling'" :test="test" :edits="edits" :fixed="fixed" />
          <ShapePanel v-else-if="tab === 'shape'" :test="test" :chosen="chosen" @choose="chosen = $event" />
          <TextPanel
            v-else-if="tab === 'text'"
            :test="test"
            :catalogue="catalogue.data.value"
            :edits="edits"
            :fixed="fixed"
            @choose="chosen = [$event]"
          />
          <VersionsPanel
            v-else-if="tab === 'versions'"
            :test="test"
            :edits="edits"
            :fixed="fixed"
            @choose="chosen = [$event]"
            @run="running.start({ kind: 'run', rows: 'all', version: $event })"
          />
          <FilesPanel v-else-if="tab === 'files'" :test="test.id" :fixed="fixed" />
          <SettingsPanel
            v-else-if="tab === 'settings'"
            :test="test"
            :edits="edits"
            :fixed="fixed"
            :chosen="chosen"
          />
          <CheckPanel
            v-else-if="tab === 'check' && picked"
            :picked="picked"
            :tried="tried"
            @try="stage?.send({ type: 'try checks', checks: $event })"
            @add="(checks, as) => stage?.addChecks(checks, as)"
            @close="endChecks"
          />
          <RunPanel v-else-if="run.data.value" :run="run.data.value" :row="rowId" @choose="rowId = $event" />
          <p v-else class="px-4 py-3 text-soft">
            Press Try for a quick run, or Run for one on record. What happens shows here.
          </p>
        </div>
      </section>
      <DataCheck
        v-if="checked"
        :found="checked.found"
        :ahead="Boolean(checked.ahead)"
        :fixed="fixed"
        @close="checked = null"
        @run="checked.ahead && running.start(checked.ahead, true)"
        @show="showProblem"
        @fix="fixProblem"
      />
      <MakeFlow v-if="flowing.length" :test="test" :steps="flowing" @done="((flowing = []), (chosen = []))" />
      <SplitTest v-if="splitting" :test="test" :step="splitting" @close="splitting = ''" />
    </template>
  </div>
</template>
