import { useLocalStorage, useSessionStorage } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import type { Ref } from 'vue'

import { api, ask, session } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import type { Asked, Said } from '@/features/live/useLive'
import { complain } from '@/shared/notes'

import { nameOf } from './places'
import type { Path } from './places'

export type Rehearsing = ReturnType<typeof useRehearsal>
export type Do = Shapes['HandAsked']['do']
export type Watch = Shapes['WatchAsked']
export type PlayedStep = Shapes['PlayedStepSaid']
type Search = Shapes['SearchSaid']
type About = Extract<
  Said,
  { type: 'rehearsal' | 'rehearsed' | 'values' | 'lacks' | 'on the spot' | 'candidates' | 'search' }
>

const ABOUT = ['rehearsal', 'rehearsed', 'values', 'lacks', 'on the spot', 'candidates', 'search']
/** Whether what a station says is about a rehearsal. */
export const isAboutRehearsal = (said: Said): said is About => ABOUT.includes(said.type)
/** How to begin: which row, from which sentence on, on a fresh stage or on the stage as it is. */
export interface Beginning {
  row?: string
  start?: Path
  fresh: boolean
  hold?: boolean
}

/** The rehearsal on the stage of a test: how it stands, and what is asked of it. */
export function useRehearsal(
  test: Ref<Test | undefined>,
  edits: Edits,
  send: (message: Asked) => void,
  begins: () => void,
  /** Whose rehearsal is looked at; 0 for one's own. */
  of: number,
) {
  const state = shallowRef<Shapes['RehearsalSaid'] | null>(null)
  const steps = shallowRef<PlayedStep[]>([])
  const values = shallowRef<Shapes['ValuesSaid'] | null>(null)
  const lacks = shallowRef<Shapes['LacksSaid'] | null>(null)
  const spotDone = shallowRef<Shapes['OnTheSpotSaid'] | null>(null)
  const candidates = shallowRef<Shapes['CandidatesSaid'] | null>(null)
  const search = shallowRef<Search | null>(null)
  const asking = ref<Beginning | null>(null)
  const closed = ref(false)

  const key = `${session.me?.account.id ?? 0} ${test.value?.id ?? location.pathname}`
  const watches = useLocalStorage<Watch[]>(`watched ${key}`, [])
  const begun = useSessionStorage(`rehearsing ${key}`, false)

  const on = computed(() => ['playing', 'held'].includes(state.value?.state ?? ''))
  const held = computed(() => state.value?.state === 'held')
  const over = computed(() => state.value?.state === 'over')
  const own = of === 0
  /** Whether it is a row of a run that was taken in hand. */
  const ofRun = computed(() => state.value?.of_run ?? false)
  /** Whether there is something to be seen of it. */
  const there = computed(() => on.value || (over.value && !closed.value))
  const mine = computed(() => state.value?.hand.account === session.me?.account.id)
  const spot = computed(() => (there.value ? (state.value?.spot ?? null) : null))
  /** The test or flow in which it is. */
  const place = computed(() => Number(spot.value?.flow || test.value?.id || 0))
  const marks = computed(
    () => new Map(there.value ? steps.value.map((one) => [nameOf(one), one] as const) : []),
  )

  function hear(said: About): void {
    if (said.type === 'rehearsed') steps.value = said.anew ? said.steps : [...steps.value, ...said.steps]
    else if (said.type === 'values') values.value = said
    else if (said.type === 'lacks') lacks.value = said
    else if (said.type === 'on the spot') spotDone.value = said
    else if (said.type === 'candidates') candidates.value = said
    else if (said.type === 'search') search.value = said
    else take(said)
  }
  function take(said: Shapes['RehearsalSaid']): void {
    const before = state.value
    // What was over before this page was opened is not shown again, unless the page saw it begin.
    if (!before && said.state === 'over') closed.value = !begun.value
    state.value = said
    if (said.state === 'none') {
      if (begun.value)
        complain(new Error('The rehearsal is over: the station or the stage that held it ended.'))
      begun.value = false
      return
    }
    begun.value = on.value && !ofRun.value
    if (before?.moment !== said.moment || before.state !== said.state) {
      lacks.value = candidates.value = search.value = null
      if (said.state === 'held' && before?.state !== 'held' && watches.value.length) watch()
    }
    if (said.state === 'held' && pending.value) {
      const goal = pending.value
      pending.value = null
      if (!said.spot || nameOf(said.spot) !== nameOf(goal)) void onTo(goal)
    }
  }

  async function begin(how: Beginning, sure = false): Promise<void> {
    await edits.settled()
    asking.value = how
    closed.value = false
    lacks.value = null
    begins()
    const { row = '', start, fresh, hold = false } = how
    send({ type: 'rehearse', row, start: start ?? null, fresh, hold, sure })
  }
  /** Go on, once all that was edited is saved: what is tried again is what stands there now. */
  async function go(what: Do): Promise<void> {
    if (what !== 'hold' && what !== 'end') await edits.settled()
    send({ type: 'hand', do: what })
  }
  async function onTo(path: Path): Promise<void> {
    if (held.value && spot.value && nameOf(spot.value) === nameOf(path)) return // it is there
    await edits.settled()
    send({ type: 'on to', ...path })
  }
  async function fromHere(path: Path, sure = false): Promise<void> {
    await edits.settled()
    lacks.value = null
    if (on.value) send({ type: 'from here', ...path, sure })
    else await begin({ row: state.value?.row_id, start: path, fresh: false }, sure)
  }
  /** Play what leads to a sentence first, then hold there. */
  async function upTo(path: Path): Promise<void> {
    lacks.value = null
    if (!on.value) await begin({ row: state.value?.row_id, fresh: true, hold: true })
    else send({ type: 'from here', calls: [], step: '' })
    pending.value = path
  }
  const pending = ref<Path | null>(null)
  /** The sentence inside a flow that was chosen to go to, or to go on from. */
  const target = shallowRef<Path | null>(null)
  const aim = (at: Path | null) => (target.value = at)

  const dismiss = () => (closed.value = true)
  const leaveIt = () => (lacks.value = null)
  function pace(seconds: number | null, light: boolean): void {
    send({ type: 'pace', seconds, light })
  }
  const setValue = (source: string, name: string, value: string) =>
    send({ type: 'set value', source, name, value })
  function watch(list: Watch[] = watches.value): void {
    watches.value = list
    send({ type: 'watch', watches: list })
  }

  /** Do what the search proposed, then try the sentence again. */
  async function mend(act: Shapes['MendAsk']['act'], given: Record<string, unknown>): Promise<void> {
    const step = spot.value?.step
    if (!step) return
    const path = { id: place.value }
    const body = { step, act, given: given as Record<string, never>, key: crypto.randomUUID() }
    try {
      await edits.settled()
      await ask(api.POST('/api/tests/{id}/mend', { params: { path }, body }))
      const inserted = ['close first', 'go to window', 'answer dialog', 'sign in'].includes(act)
      if (inserted) await fromInserted()
      else await go('again')
    } catch (error) {
      complain(error)
    }
  }
  /** Go on from what was put in before the sentence at which it is held. */
  async function fromInserted(): Promise<void> {
    const at = spot.value
    if (!at) return
    const now = await ask(api.GET('/api/tests/{id}', { params: { path: { id: place.value } } }))
    const order = now.steps
    const here = order.findIndex((one) => one.id === at.step)
    const depth = order[here]?.depth ?? 0
    let first = here - 1
    while (first > 0 && (order[first]?.depth ?? 0) > depth) first -= 1
    const step = order[first]?.id
    if (step) await fromHere({ calls: at.calls, step }, true)
  }

  return {
    state, steps, values, lacks, spotDone, candidates, search, watches, asking, pending, closed, target, aim,
    on, held, over, there, mine, own, ofRun, spot, place, marks, hear, begin, go, onTo, fromHere, upTo, pace, setValue,
    watch, mend, send, dismiss, leaveIt,
  } // prettier-ignore
}
