import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Ref } from 'vue'

import { ApiProblem, api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import { isConflict, saved } from '@/shared/conflicts'
import { complain } from '@/shared/notes'

import { rebased } from './rebasing'

/** A change of a test, as the API has it. */
export type Edit = Shapes['EditAsk']['edit']

/** What an edit led to: the test that it was made on, and what came of it. */
export interface Answer {
  before: Test
  after: Test
}

/** What to do instead of a change that conflicts with somebody else's: see `rebased`. */
export type Again = (before: Test, now: Test) => Promise<Edit | null | undefined>

/** Changing a test: one change after the other, each made on the version that is shown. */
export function useEdits(test: Ref<Test | undefined>) {
  const queries = useQueryClient()
  let line: Promise<unknown> = Promise.resolve()

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
  async function send(shown: Test, edit: Edit, again?: Again): Promise<Test> {
    const body = { base: shown.version, edit: { ...edit } }
    try {
      return await ask(api.POST('/api/tests/{id}/edits', { ...path(shown), body }))
    } catch (error) {
      if (!isConflict(error)) throw error
      const newest = await ask(api.GET('/api/tests/{id}', path(shown)))
      const meant = await (again ?? ((before, now) => defaultAgain(edit, before, now)))(shown, newest)
      if (meant === undefined) throw error
      return meant ? send(newest, meant, again) : newest
    }
  }

  return {
    /** Resolves when all changes made so far have been answered. */
    settled: () => line,
    edit: (edit: Edit, again?: Again) => inTurn((shown) => send(shown, edit, again)),
    undo: () =>
      inTurn((shown) =>
        ask(api.POST('/api/tests/{id}/undo', { ...path(shown), body: { base: shown.version } })),
      ),
    redo: () =>
      inTurn((shown) =>
        ask(api.POST('/api/tests/{id}/redo', { ...path(shown), body: { base: shown.version } })),
      ),
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
    canUndo: computed(() => test.value?.can_undo ?? false),
    canRedo: computed(() => test.value?.can_redo ?? false),
  }
}

const defaultAgain = (edit: Edit, before: Test, now: Test) =>
  edit.do === 'change' ? rebased(edit, before, now) : Promise.resolve(undefined)

export type Edits = ReturnType<typeof useEdits>
