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

/** Some time that nobody knows to the second: `12 s`, `2 min`, `1 min 30 s`. */
export function roughly(value: number): string {
  if (value < 60) return `${Math.ceil(value)} s`
  const tens = Math.ceil(value / 10) * 10
  return tens % 60 === 0 && tens < 3600 ? `${tens / 60} min` : seconds(tens)
}

/** How many casts of a cell are what the cell is called, where not all are: `1 of 7`. */
export function share(cell: Shapes['MatrixCell']): string {
  const all = total(cell.casts)
  if (cell.outcome === 'running') return all > 1 ? `${over(cell.casts)} of ${all} over` : ''
  const these = cell.casts[cell.outcome] ?? all
  return these < all || all > 1 ? `${these} of ${all}` : ''
}

/** How long something takes, with its range: `about 2 min 10 s (1 min to 5 min)`. */
export function span(one: Shapes['SpanOut']): string {
  if (one.most - one.least < 2) return `about ${roughly(one.usual)}`
  return `about ${roughly(one.usual)} (${roughly(one.least)} to ${roughly(one.most)})`
}
