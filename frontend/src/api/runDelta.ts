import type { QueryClient } from '@tanstack/vue-query'

import type { Shapes } from './client'

type Run = Shapes['RunOut']
type Results = Shapes['ResultList']
type Result = Shapes['ResultOut']

/** Put what changed in a run in place of what was known of it. */
export function changedRun(run: Run, { delta }: Shapes['RunNotice']): Run {
  const fresh = new Map(delta.casts.map((one) => [one.id, one]))
  const casts = run.casts.map((one) => fresh.get(one.id) ?? one)
  const kept = [...new Set([...run.kept, ...delta.casts.flatMap((one) => Object.keys(one.kept))])]
  return { ...run, run: delta.run, message: delta.message, casts, kept }
}

/** Add results to those that are known, in the order of the steps. */
export function withResults(known: Result[], fresh: Result[]): Result[] {
  const by = new Map([...known, ...fresh].map((one) => [one.id, one]))
  return [...by.values()].sort((one, other) => one.position - other.position || one.id - other.id)
}

const OVER = ['passed', 'unsteady', 'failed', 'interrupted', 'cancelled']

/**
 * Take in what changed in a run that is followed. What only the whole run tells (what may be at
 * fault, its defects, what it waits for) is asked for anew where it may have changed.
 */
export function takeDelta(queries: QueryClient, notice: Shapes['RunNotice'], ask: (key: unknown[]) => void) {
  const { delta } = notice
  const underWay = (key: unknown[]) => queries.getQueryState(key)?.fetchStatus === 'fetching'
  const before = queries.getQueryData<Run>(['run', notice.id])
  // What is being read may be older than this.
  if (!before || underWay(['run', notice.id])) ask(['run', notice.id])
  if (!before) return
  const known = new Map(before.casts.map((one) => [one.id, one]))
  queries.setQueryData<Run>(['run', notice.id], changedRun(before, notice))
  for (const cast of delta.casts) {
    const key = ['results', cast.id]
    const taken = known.get(cast.id)?.takings
    const fresh = delta.results[cast.id] ?? []
    if (delta.again || taken !== cast.takings || underWay(key)) ask(key)
    else if (fresh.length)
      queries.setQueryData<Results>(key, (old) => old && { results: withResults(old.results, fresh) })
  }
  const ended = delta.casts.some(
    (one) => one.outcome !== known.get(one.id)?.outcome && one.outcome !== 'running',
  )
  const over = OVER.includes(delta.run.state)
  if (before.waits_for.length || (ended && delta.run.rows.failed) || over !== OVER.includes(before.run.state))
    ask(['run', notice.id])
  if (ended || delta.run.state !== before.run.state) [['runs'], ['tests']].forEach(ask)
}
