import { useQueryClient } from '@tanstack/vue-query'
import { computed, shallowRef, watch } from 'vue'
import type { Ref } from 'vue'

import { ApiProblem, api, ask, isOffline, isSignedOut, mayChange } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import { answers, connection } from '@/api/connection'
import { isConflict, saved } from '@/shared/conflicts'
import { complain } from '@/shared/notes'
import { takenBack } from '@/shared/takingBack'

import { inWords, keepPending, pendingOf, settlePending } from './pending'
import type { Pending } from './pending'
import { placedAgain, rebased, settingsAgain } from './rebasing'

/** A change of a test, as the API has it. */
export type Edit = Shapes['EditAsk']['edit']

/** What an edit led to: the test that it was made on, and what came of it. */
export interface Answer {
  before: Test
  after: Test
}

/** What to do instead of a change that conflicts with somebody else's: see `rebased`. */
export type Again = (before: Test, now: Test) => Promise<Edit | null | undefined>

const newKey = () => crypto.randomUUID()
/** Changes left at this desk that a page is sending already. */
const taken = new Set<string>()

/** Changing a test: one change after the other, each made on the version that is shown. */
export function useEdits(test: Ref<Test | undefined>) {
  const queries = useQueryClient()
  let line: Promise<unknown> = Promise.resolve()
  /** Changes that could not be sent yet, in the order in which they were made. */
  const waiting = shallowRef<Pending[]>([])

  function inTurn(work: (shown: Test) => Promise<Test>): Promise<Answer | false> {
    const turn = line.then(async (): Promise<Answer | false> => {
      const shown = test.value && queries.getQueryData<Test>(['test', test.value.id])
      if (!shown) return false
      try {
        const changed = await work(shown)
        const newest = queries.getQueryData<Test>(['test', shown.id])
        if (!newest || newest.version <= changed.version) queries.setQueryData(['test', shown.id], changed)
        return { before: shown, after: changed }
      } catch (error) {
        complain(error)
        if (error instanceof ApiProblem && error.status !== 422)
          await queries.invalidateQueries({ queryKey: ['test', shown.id] })
        return false
      }
    })
    line = turn
    return turn
  }

  const path = (shown: Test) => ({ params: { path: { id: shown.id } } })

  /** Send a change; where it conflicts, what is left of it is made on the newest version. */
  async function send(from: Test, change: Pending, again?: Again): Promise<Test> {
    const { key, base, edit } = change
    const body = { base, edit: { ...edit }, key }
    try {
      return await ask(api.POST('/api/tests/{id}/edits', { ...path(from), body }))
    } catch (error) {
      if (!isConflict(error)) throw error
      const newest = await ask(api.GET('/api/tests/{id}', path(from)))
      const meant = await (again ?? ((before, now) => defaultAgain(edit, before, now)))(from, newest)
      if (meant === undefined) {
        complain(new Error(`Not saved, as it was changed or deleted meanwhile: ${inWords(edit)}.`))
        throw error
      }
      return meant ? send(newest, { key: newKey(), base: newest.version, edit: meant }, again) : newest
    }
  }

  /**
   * Send a change as soon as Lantern answers; until then it waits at this desk. What was made while
   * nobody answered is held against what was `seen` then: others may have acted since.
   */
  async function sendSurely(shown: Test, change: Pending, seen: Test, again?: Again): Promise<Test> {
    const held = waiting.value.includes(change)
    const from = held ? seen : shown
    const meant = held ? change : { ...change, base: shown.version }
    for (;;) {
      if (withdrawn.delete(change.key)) return shown
      try {
        const answer = await send(from, meant, again)
        remember(change.edit)
        settle(shown.id, change)
        return answer
      } catch (error) {
        if (isSignedOut(error)) {
          keepPending(shown.id, change) // it is sent when the same person is back
          stopWaiting(change)
          throw error
        }
        if (!isOffline(error)) {
          if (waiting.value.includes(change) && !isConflict(error))
            complain(new Error(`Not saved: ${inWords(change.edit)}.`))
          settle(shown.id, change)
          throw error
        }
      }
      hold(shown.id, change)
      await answers()
    }
  }
  function hold(id: number, change: Pending) {
    if (waiting.value.includes(change)) return
    waiting.value = [...waiting.value, change]
    connection.waiting += 1
    taken.add(change.key)
    keepPending(id, change)
  }
  function stopWaiting(change: Pending) {
    taken.delete(change.key)
    if (!waiting.value.includes(change)) return
    waiting.value = waiting.value.filter((one) => one !== change)
    connection.waiting -= 1
  }
  /** Waiting changes that were taken back before they were sent. */
  const withdrawn = new Set<string>()
  function withdraw(id: number): boolean {
    const last = waiting.value.at(-1)
    if (!connection.down || !last) return false
    withdrawn.add(last.key)
    settle(id, last)
    return true
  }
  function settle(id: number, change: Pending) {
    if (waiting.value.includes(change)) settlePending(id, change)
    stopWaiting(change)
  }

  /** Values that this page gave sentences itself: to change them again conflicts with nobody. */
  const own = new Map<string, string>()
  function remember(edit: Edit) {
    if (edit.do !== 'change') return
    for (const [name, value] of Object.entries(edit.fields.inputs ?? {}))
      own.set(`${edit.step} ${name}`, value ?? '')
  }
  const defaultAgain = (edit: Edit, before: Test, now: Test): ReturnType<Again> => {
    if (edit.do === 'change') return rebased(edit, before, now, own)
    if (edit.do === 'set settings') return settingsAgain(edit, before, now)
    return placedAgain(edit, before, now)
  }

  function edit(meant: Edit, again?: Again): Promise<Answer | false> {
    const seen = test.value
    if (!seen) return Promise.resolve(false)
    const change = { key: newKey(), base: seen.version, edit: meant }
    if (connection.down) hold(seen.id, change)
    return inTurn((shown) => sendSurely(shown, change, seen, again))
  }

  /** What had been changed at this desk and was never sent, since the page was left before. */
  function sendLeft(seen: Test) {
    for (const change of pendingOf(seen.id)) {
      if (taken.has(change.key)) continue
      hold(seen.id, change)
      void inTurn((shown) =>
        sendSurely(shown, change, { ...seen, version: change.base }, () => Promise.resolve(undefined)),
      )
    }
  }
  watch(
    () => test.value?.id,
    () => test.value && mayChange() && sendLeft(test.value),
    { immediate: true },
  )

  /** Take one's own last act back, or do it again; where others built on it, the person is asked. */
  function travel(way: 'undo' | 'redo') {
    // While Lantern does not answer, the last act is the last that waits.
    if (way === 'undo' && test.value && withdraw(test.value.id)) return line
    const key = newKey()
    const go = (shown: Test, force: boolean) =>
      ask(api.POST(`/api/tests/{id}/${way}`, { ...path(shown), body: { force, key } }))
    return inTurn((shown) => takenBack((force) => go(shown, force), shown))
  }

  return {
    /** Resolves when all changes made so far have been answered. */
    settled: () => line,
    /** Changes that wait to be sent, in the order in which they were made. */
    waiting,
    edit,
    undo: () => travel('undo'),
    redo: () => travel('redo'),
    share: (name: string) =>
      inTurn((shown) =>
        ask(api.POST('/api/tests/{id}/share', { ...path(shown), body: { base: shown.version, name } })),
      ),
    useShared: (table: number | null) =>
      inTurn((shown) =>
        ask(api.PUT('/api/tests/{id}/shared', { ...path(shown), body: { base: shown.version, table } })),
      ),
    takeIn: (asked: Omit<Shapes['TakeInAsk'], 'base' | 'write'>) =>
      inTurn(async (shown) => {
        const body = { ...asked, base: shown.version, write: true }
        return (await ask(api.POST('/api/tests/{id}/take-in', { ...path(shown), body }))).test!
      }),
    putBack: (step: string) =>
      inTurn((shown) =>
        ask(api.POST('/api/tests/{id}/put-back', { ...path(shown), body: { base: shown.version, step } })),
      ),
    restore: (version: number) =>
      inTurn((shown) =>
        ask(api.POST('/api/tests/{id}/restore', { ...path(shown), body: { base: shown.version, version } })),
      ),
    setBaseline: (version: number | null) =>
      inTurn((shown) => ask(api.PUT('/api/tests/{id}/baseline', { ...path(shown), body: { version } }))),
    rename: (name: string) =>
      inTurn(async (shown) => {
        const newest = () => ask(api.GET('/api/tests/{id}', path(shown)))
        const save = (text: string, was: string) =>
          ask(api.PATCH('/api/tests/{id}', { ...path(shown), body: { name: text, was } }))
        const named = await saved('name', name, shown.name, save, async () => (await newest()).name)
        return named ?? newest()
      }),
    /** What undo would take back, and redo do again; "" for nothing. */
    toUndo: computed(() =>
      connection.down && waiting.value.length ? 'the last change that waits' : (test.value?.undo ?? ''),
    ),
    toRedo: computed(() => test.value?.redo ?? ''),
  }
}

export type Edits = ReturnType<typeof useEdits>
