import type { Shapes } from '@/api/client'

/** A sentence: the calls that lead to it, outermost first, and its own id. */
export interface Path {
  calls: string[]
  step: string
}
export const nameOf = ({ calls, step }: Path): string => [...calls, step].join('/')

const begins = (whole: string[], part: string[]) => part.every((one, n) => whole[n] === one)

/** Whether a call leads to where a rehearsal is, so that its flow is open. */
export const leadsTo = (spot: Shapes['SpotSaid'] | null, call: Path): boolean =>
  spot !== null && begins(spot.calls, [...call.calls, call.step])

/** The rounds in which the story behind `depth` calls is, outermost first. */
export function roundsAt(within: string[], depth: number): string[] {
  let calls = 0
  return within.filter((one) => {
    const round = one.startsWith('round ')
    if (!round) calls += 1
    return round && calls === depth
  })
}

interface Placed {
  id: string
  depth: number
  action: string
}
const REPEATS = ['repeat', 'repeat rows', 'while']

/** The round in which each repeat is that a sentence is in, by the id of the repeat. */
export function roundsOf(steps: Placed[], at: string, rounds: string[]): Map<string, string> {
  const found: string[] = []
  let depth = Infinity
  for (const step of [...steps].reverse()) {
    if (step.id === at) depth = step.depth
    else if (depth !== Infinity && step.depth < depth) {
      depth = step.depth
      if (REPEATS.includes(step.action)) found.unshift(step.id)
    }
  }
  return new Map(found.map((id, n) => [id, rounds[n] ?? '']))
}
