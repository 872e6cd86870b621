<script setup lang="ts">
import { ChevronDown, ChevronUp, Circle, CircleDot, Crosshair, ScanSearch, Square } from '@lucide/vue'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue, useTest } from '@/api/queries'
import ElementEditor from '@/features/pages/ElementEditor.vue'
import type { Verdict } from '@/features/pages/ElementEditor.vue'
import RowsGrid from '@/features/tables/RowsGrid.vue'
import Draft from '@/shared/Draft.vue'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { complain, say } from '@/shared/notes'

import CallingPanel from './CallingPanel.vue'
import CheckPanel from './CheckPanel.vue'
import ConstantsPanel from './ConstantsPanel.vue'
import DataCheck from './DataCheck.vue'
import FilesPanel from './FilesPanel.vue'
import LivePicture from './LivePicture.vue'
import MakeFlow from './MakeFlow.vue'
import RunControls from './RunControls.vue'
import RunPanel from './RunPanel.vue'
import SettingsPanel from './SettingsPanel.vue'
import ShapePanel from './ShapePanel.vue'
import Stage from './Stage.vue'
import StillPanel from './StillPanel.vue'
import Story from './Story.vue'
import TextPanel from './TextPanel.vue'
import VersionsPanel from './VersionsPanel.vue'
import { useEdits } from './useEdits'
import { usePlaying } from './usePlaying'
import { useRunning } from './useRunning'
import { useStill } from './useStill'
import type { Picked, Tried } from './useLive'

type Tab =
  | 'rows'
  | 'shape'
  | 'text'
  | 'versions'
  | 'values'
  | 'calling'
  | 'run'
  | 'settings'
  | 'check'
  | 'element'
  | 'files'

/** Drawers that want more room than others. */
const HEIGHTS: Partial<Record<Tab, string>> = { element: 'h-[17rem]', text: 'h-[24rem]', shape: 'h-[24rem]' }

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const query = useTest(id)
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
const splitName = ref('')

const tried = ref<Tried[]>([])
const repicking = ref(false)
const repicked = ref<object | null>(null)
const verdict = ref<Verdict | null>(null)
const element = ref('')
const flowing = ref<string[]>([])
/** The tabs that are always there; a flow has inputs where a test has rows. */
const tabs = computed<{ key: Tab; name: string }[]>(() => [
  test.value?.kind === 'flow'
    ? { key: 'calling', name: 'Inputs and outputs' }
    : { key: 'rows', name: `Rows (${test.value?.row_count ?? 0})` },
  { key: 'values', name: 'Constants' },
  { key: 'files', name: 'Files' },
  { key: 'run', name: 'Last run' },
  { key: 'settings', name: 'Limits' },
  { key: 'shape', name: 'Shape' },
  { key: 'text', name: 'Text' },
  { key: 'versions', name: 'Versions' },
])
const usual = computed<Tab>(() => (test.value?.kind === 'flow' ? 'calling' : 'rows'))
watch(usual, (now) => (tab.value = now), { immediate: true })
const busy = ref(false)
const send = (message: object) => stage.value?.send(message)
const still = reactive(useStill(send, busy, folded))
const onStage = usePlaying(test, edits, send, busy, () => {
  still.saved = 0
  paused.value = false
})
const { playing } = onStage
function takeStill() {
  if (recording.value) record(false, true)
  still.take()
}

const running = useRunning(test, edits, () => show('run'))
const { run, results, going, row, runId, rowId, checked, clean } = running
const stepNow = computed(() => {
  if (playing.value) return playing.value
  return row.value?.outcome === 'running' ? row.value.current_step : ''
})
const shine = computed(() => {
  const step = test.value?.steps.find((one) => one.id === chosen.value.at(-1))
  return chosen.value.length === 1 && !recording.value ? (step?.element ?? '') : ''
})

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

async function split() {
  try {
    const made = await ask(
      api.POST('/api/tests/{id}/copy', {
        params: { path: { id: id.value } },
        body: { name: splitName.value, until: splitting.value },
      }),
    )
    splitting.value = ''
    await router.push(`/tests/${made.id}`)
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
        <template v-if="!fixed">
          <button v-if="!recording" class="button" data-role="record" @click="record(true)">
            <Circle :size="14" /> {{ paused ? 'Resume' : 'Record' }}
          </button>
          <button
            v-else
            class="button border-lit bg-lit-paper text-lit-ink"
            data-role="pause"
            title="Recording: press to pause"
            @click="record(false, true)"
          >
            <CircleDot :size="14" /> Pause
          </button>
          <button v-if="recording || paused" class="button" data-role="stop" @click="record(false)">
            <Square :size="13" /> Stop
          </button>
          <button
            class="button"
            :class="checking && 'border-lit bg-lit-paper text-lit-ink'"
            :aria-pressed="checking"
            data-role="check"
            @click="checking = !checking"
          >
            <Crosshair :size="14" /> Check
          </button>
          <button
            class="button"
            data-role="still-button"
            :disabled="busy"
            title="Freeze the page and see all that is on it"
            @click="still.saved ? still.close() : takeStill()"
          >
            <ScanSearch :size="14" /> Still
          </button>
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
            <LivePicture :key="runId" :path="`/api/live/run/${runId}`" />
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
          @split="((splitting = $event), (splitName = `${test.name}, another ending`))"
        />
      </div>
      <section
        class="flex shrink-0 flex-col border-t border-line bg-sheet"
        :class="folded ? '' : (HEIGHTS[tab] ?? 'h-[13.5rem]')"
        aria-label="Drawer"
      >
        <div class="flex items-center gap-1 border-b border-line px-2 py-0.5 text-sm" role="tablist">
          <button
            v-for="one in tabs"
            :key="one.key"
            role="tab"
            class="rounded px-2 py-1"
            :class="tab === one.key ? 'font-semibold' : 'text-soft hover:text-ink'"
            :aria-selected="tab === one.key"
            @click="((tab = one.key), (folded = false))"
          >
            {{ one.name }}
          </button>
          <button
            v-if="element"
            role="tab"
            class="rounded px-2 py-1"
            :class="tab === 'element' ? 'font-semibold' : 'text-soft'"
            :aria-selected="tab === 'element'"
            @click="((tab = 'element'), (folded = false))"
          >
            Element
          </button>
          <button
            v-if="picked"
            role="tab"
            class="rounded px-2 py-1"
            :class="tab === 'check' ? 'font-semibold' : 'text-soft'"
            :aria-selected="tab === 'check'"
            @click="tab = 'check'"
          >
            Check
          </button>
          <button
            class="button-bare ml-auto"
            :aria-label="folded ? 'Open the drawer' : 'Fold the drawer'"
            @click="folded = !folded"
          >
            <component :is="folded ? ChevronUp : ChevronDown" :size="16" />
          </button>
        </div>
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
            :verdict="verdict"
            :repicked="repicked"
            @try="stage?.send({ type: 'try', element: $event })"
            @repick="((still.saved = 0), (repicking = true))"
            @gone="((element = ''), (tab = usual))"
          />
          <ConstantsPanel
            v-else-if="tab === 'values'"
            :test="test"
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
        @close="checked = null"
        @run="checked.ahead && running.start(checked.ahead, true)"
        @show="showProblem"
      />
      <MakeFlow v-if="flowing.length" :test="test" :steps="flowing" @done="((flowing = []), (chosen = []))" />
      <Modal :open="splitting !== ''" title="New test from the part up to here" @update:open="splitting = ''">
        <form class="flex flex-col gap-3" @submit.prevent="split">
          <label class="text-sm">Its name <input v-model="splitName" class="field mt-1" required /></label>
          <p class="text-sm text-soft">It begins with the same sentences and rows; record on from there.</p>
          <div class="flex justify-end gap-2">
            <button type="button" class="button" @click="splitting = ''">Cancel</button>
            <button class="button button-main">Make the test</button>
          </div>
        </form>
      </Modal>
    </template>
  </div>
</template>
