/** What changed in a run is put in place of what was known; what only the whole tells is asked for. */
import { QueryClient } from '@tanstack/vue-query'
import { describe, expect, it } from 'vitest'

import type { Shapes } from '@/api/client'
import { changedRun, takeDelta, withResults } from '@/api/runDelta'

import { cast, runOf } from './made'

type Result = Shapes['ResultOut']
const result = (id: number, position: number) => ({ id, position }) as Result

function notice(casts: ReturnType<typeof cast>[], more: object = {}): Shapes['RunNotice'] {
  const delta = { run: { id: 7, state: 'running', rows: {} }, message: '', casts, results: {}, again: false }
  return { about: 'run', id: 7, delta: { ...delta, ...more } } as unknown as Shapes['RunNotice']
}

function told(before: ReturnType<typeof runOf> | undefined, what: Shapes['RunNotice']) {
  const queries = new QueryClient()
  if (before) queries.setQueryData(['run', 7], before)
  queries.setQueryData(['results', 1], { results: [result(1, 0)] })
  const asked: unknown[][] = []
  takeDelta(queries, what, (key) => asked.push(key))
  return { queries, asked }
}

describe('a run that is followed', () => {
  it('keeps the rows that did not change, and their order', () => {
    const before = runOf([cast(1, 'running'), cast(2, 'waiting')])
    const after = changedRun(before, notice([cast(2, 'running', { kept: { total: '7' } })]))
    expect(after.casts.map((one) => [one.id, one.outcome])).toEqual([
      [1, 'running'],
      [2, 'running'],
    ])
    expect(after.casts[0]).toBe(before.casts[0])
    expect(after.kept).toEqual(['total'])
  })

  it('takes in a new result without asking for anything', () => {
    const what = notice([cast(1, 'running')], { results: { 1: [result(2, 1)] } })
    const { queries, asked } = told(runOf([cast(1, 'running')]), what)
    expect(queries.getQueryData(['results', 1])).toEqual({ results: [result(1, 0), result(2, 1)] })
    expect(asked).toEqual([])
  })

  it('asks for the results of a row that was taken again', () => {
    const { asked } = told(runOf([cast(1, 'running')]), notice([cast(1, 'running', { takings: 2 })]))
    expect(asked).toEqual([['results', 1]])
  })

  it('asks for the whole once it is over, and when it is not known yet', () => {
    const over = notice([cast(1, 'passed')], { run: { id: 7, state: 'passed', rows: { passed: 1 } } })
    expect(told(runOf([cast(1, 'running')]), over).asked).toEqual([['run', 7], ['runs'], ['tests']])
    expect(told(undefined, over).asked).toEqual([['run', 7]])
  })

  it('asks for what may be at fault when a row failed', () => {
    const failed = notice([cast(1, 'failed')], { run: { id: 7, state: 'running', rows: { failed: 1 } } })
    expect(told(runOf([cast(1, 'running'), cast(2, 'waiting')]), failed).asked).toContainEqual(['run', 7])
  })

  it('asks again for what may have been missed', () => {
    const { asked } = told(runOf([cast(1, 'running')]), notice([cast(1, 'running')], { again: true }))
    expect(asked).toEqual([['results', 1]])
  })

  it('holds each result once, in the order of the steps', () => {
    const found = withResults([result(5, 1), result(4, 0)], [result(5, 1), result(9, 1), result(6, 3)])
    expect(found.map((one) => one.id)).toEqual([4, 5, 9, 6])
  })
})
