import type { Shapes } from '@/api/client'
import { seconds } from '@/shared/times'

/** Outcomes in the order in which counts of them are told. */
const ORDER = [
  'passed',
  'unsteady',
  'failed',
  'interrupted',
  'skipped',
  'cancelled',
  'running',
  'waiting',
] as const

/** How many casts have which outcome, in words: `5 passed, 1 failed`. */
export function tally(casts: Record<string, number>): string {
  return ORDER.filter((outcome) => casts[outcome])
    .map((outcome) => `${casts[outcome]} ${outcome}`)
    .join(', ')
}

export const total = (casts: Record<string, number>) =>
  Object.values(casts).reduce((sum, count) => sum + count, 0)

/** How many casts are over. */
export const over = (casts: Record<string, number>) =>
  total(casts) - (casts.running ?? 0) - (casts.waiting ?? 0)

const roughly = (value: number) => seconds(value < 60 ? Math.ceil(value) : Math.ceil(value / 10) * 10)

/** How long something takes, with its range: `about 2 min 10 s (1 min 0 s to 5 min 0 s)`. */
export function span(one: Shapes['SpanOut']): string {
  if (one.most - one.least < 2) return `about ${roughly(one.usual)}`
  return `about ${roughly(one.usual)} (${roughly(one.least)} to ${roughly(one.most)})`
}
