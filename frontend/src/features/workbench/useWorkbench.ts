import { computed, inject, nextTick, provide, reactive, ref, watch } from 'vue'
import type { InjectionKey } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useHere } from '@/api/presence'
import { useCatalogue, useTest } from '@/api/queries'
import { useEdits } from '@/features/editing/useEdits'
import type { Asked, Picked, Tried } from '@/features/live/useLive'
import type { Part } from '@/features/rehearsing/parts'
import { useBreakpoints } from '@/features/rehearsing/useBreakpoints'
import { useRehearsal } from '@/features/rehearsing/useRehearsal'
import type { Verdict } from '@/features/pages/ElementEditor.vue'
import { complain, say } from '@/shared/notes'
import { useRouteId } from '@/shared/routeId'

import type Stage from './Stage.vue'
import type { Tab } from './drawer'
import { useLayout } from './useLayout'
import { usePlaying } from './usePlaying'
import { useRunning } from './useRunning'
import { useStill } from './useStill'

/** What a grid of rows lets others do with it. */
interface Grid {
  goTo: (row: number, column: string) => void
}

/** What the drawer shows, and what it is about. */
function useDrawer(usual: () => Tab) {
  const tab = ref<Tab>(usual())
  const layout = useLayout(tab)
  watch(usual, (now) => (tab.value = now))
  function show(which: Tab) {
    tab.value = which
    layout.folded.value = false
  }
  return { tab, layout, show, back: () => (tab.value = usual()) }
}

/** Pointing at things of the stage to check them. */
function useChecks(show: (tab: Tab) => void, back: () => void, tab: () => Tab) {
  const checking = ref(false)
  const picked = ref<Picked | null>(null)
  const tried = ref<Tried[]>([])
  watch(checking, (on) => {
    if (!on && !picked.value && tab() === 'check') back()
  })
  function pick(what: Picked) {
    picked.value = what
    tried.value = []
    show('check')
  }
  function end() {
    picked.value = null
    checking.value = false
    back()
  }
  return { checking, picked, tried, pick, end }
}

/** The element that is edited in the drawer, tried and picked again on the stage. */
function useElement(show: (tab: Tab) => void) {
  const id = ref('')
  const verdict = ref<Verdict | null>(null)
  const repicking = ref(false)
  const repicked = ref<object | null>(null)
  function edit(key: string) {
    id.value = key
    verdict.value = null
    repicked.value = null
    show('element')
  }
  return { id, verdict, repicking, repicked, edit }
}

/** The workbench of one test: its story, its stage, its drawer, and what goes on there. */
export function useWorkbench() {
  const route = useRoute()
  const router = useRouter()
  const query = useTest(useRouteId())
  const catalogue = useCatalogue()
  const test = computed(() => query.data.value)
  const edits = useEdits(test)
  const fixed = computed(() => !mayChange())
  const chosen = ref<string[]>([])

  const stage = ref<InstanceType<typeof Stage> | null>(null)
  const grid = ref<Grid | null>(null)
  const send = (message: Asked) => stage.value?.send(message)

  const drawer = useDrawer(() => (test.value?.kind === 'flow' ? 'calling' : 'rows'))
  const checks = useChecks(drawer.show, drawer.back, () => drawer.tab.value)
  const element = useElement(drawer.show)

  const recording = ref(false)
  const paused = ref(false)
  const busy = ref(false)
  function record(on: boolean, pause = false) {
    stage.value?.record(on)
    paused.value = pause
  }
  const still = reactive(useStill(send, busy, drawer.layout.aside))
  function takeStill() {
    if (recording.value) record(false, true)
    still.take()
  }
  function clearStage() {
    still.saved = 0
    paused.value = false
    if (checks.checking.value) checks.end()
  }
  const playing = usePlaying(test, edits, send, busy, clearStage)
  /** Whose stage is looked at; 0 for one's own. */
  const of = Number(route.query.of) || 0
  const rehearsing = useRehearsal(test, edits, send, clearStage, of)
  const breakpoints = useBreakpoints()
  const part = ref<Part>('values')
  const raising = ref(false)
  function showPart(which: Part) {
    part.value = which
    drawer.show('rehearsal')
  }
  watch(rehearsing.on, (now) => now && showPart('values'))
  watch(rehearsing.over, (now) => {
    if (!now || !rehearsing.there.value) return
    if (!rehearsing.ofRun.value) return showPart('changes')
    rehearsing.dismiss() // its row goes on in the run, which tells what came of it
    drawer.show('run')
  })

  /** What was pointed at for a sentence on the spot. */
  const pointed = ref<Record<string, unknown> | null>(null)
  let pointing = false
  function pointForSpot() {
    pointing = true
    element.repicking.value = true
  }
  function takeRepicked(made: object) {
    if (pointing) pointed.value = made as Record<string, unknown>
    else element.repicked.value = made
    pointing = false
  }
  const running = useRunning(test, edits, () => drawer.show('run'))
  watch([running.going, playing.playing], (now) => {
    if (now.some(Boolean) && !rehearsing.on.value) rehearsing.dismiss() // what is played now is to be seen
  })
  watch(
    () => running.live.value?.hand,
    (now, before) => before && !now && drawer.show('run'),
  )
  watch(
    () => Number(route.query.run) || 0,
    (id) => running.follow(id),
    { immediate: true },
  )
  /** The sentence that is played now, here or in a run. */
  const stepNow = computed(() => {
    const row = running.row.value
    const rehearsed = rehearsing.spot.value
    if (rehearsed) return rehearsed.calls[0] ?? rehearsed.step
    return playing.playing.value || (row?.outcome === 'running' ? row.current_step : '')
  })
  /** Whether stage or still have the room of the story: only where what gives it back is shown. */
  const alone = computed(() => drawer.layout.full.value && !fixed.value && !running.going.value)
  /** The element of the one chosen sentence, to be lit on the stage. */
  const shine = computed(() => {
    const step = test.value?.steps.find((one) => one.id === chosen.value.at(-1))
    return chosen.value.length === 1 && !recording.value ? (step?.element ?? '') : ''
  })
  watch(shine, (key) => {
    if (drawer.tab.value === 'element' && key && key !== element.id.value) element.edit(key)
  })

  useHere(
    () => test.value?.id ?? 0,
    () => chosen.value.at(-1) ?? '',
    () => (recording.value ? 'recording' : playing.playing.value || rehearsing.on.value ? 'rehearsing' : ''),
  )
  watch([stage, () => route.query.record], ([there, wanted]) => {
    if (there && wanted) void router.replace({ query: {} })
  })
  watch(
    [() => route.query.sentence, () => test.value?.steps.length],
    ([number]) => {
      const step = test.value?.steps[Number(number) - 1]
      if (!number || !step) return
      chosen.value = [step.id]
      drawer.layout.full.value = false // what one was sent to is to be seen
    },
    { immediate: true },
  )

  /** Take out what did nothing on the page. */
  async function sweep() {
    const idle = test.value?.steps.filter((step) => step.idle).map((step) => step.id) ?? []
    if (idle.length && (await edits.edit({ do: 'remove', steps: idle })))
      say(
        `${idle.length} ${idle.length === 1 ? 'sentence' : 'sentences'} swept out.`,
        () => void edits.undo(),
      )
  }

  /** Go to where a value does not fit: its cell, or its sentence. */
  async function showProblem(problem: Shapes['CellProblemOut']) {
    running.checked.value = null
    chosen.value = [problem.step]
    drawer.layout.full.value = false
    drawer.back()
    drawer.layout.folded.value = false
    await nextTick()
    grid.value?.goTo(problem.row, problem.column)
  }

  /** Put a value that would fit in the place of one that does not, then look again. */
  async function fixProblem(problem: Shapes['CellProblemOut'], value: string) {
    const ahead = running.checked.value?.ahead
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

  return {
    query, catalogue, test, edits, fixed, chosen, stage, grid, send, drawer, checks, element,
    rehearsing, breakpoints, part, showPart, raising, pointed, pointForSpot, takeRepicked, of,
    recording, paused, busy, record, still, takeStill, playing, running, stepNow, alone, shine, sweep,
    showProblem, fixProblem,
  } // prettier-ignore
}
export type Workbench = ReturnType<typeof useWorkbench>

const KEY: InjectionKey<Workbench> = Symbol('workbench')
/** Let the parts of the workbench find it. */
export const provideWorkbench = (workbench: Workbench) => provide(KEY, workbench)
/** Return the workbench that a part belongs to. */
export function theWorkbench(): Workbench {
  const found = inject(KEY)
  if (!found) throw new Error('This is a part of the workbench.')
  return found
}
