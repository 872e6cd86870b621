import type { Shapes } from '@/api/client'

export type Spot = Shapes['SpotOut']

const within = (spot: Spot) => (spot.where ? ` (${spot.where})` : '')

/** What would have to be otherwise, in words, by the kind of change. */
const WORDS: Record<Spot['kind'], (spot: Spot) => string> = {
  value: (spot) => `“${spot.before}” becomes “${spot.after}”${within(spot)}`,
  text: (spot) => `“${spot.before}” says something else${within(spot)}`,
  message: (spot) => `The message “${spot.before}” says something else`,
  count: (spot) => `A row is there twice: ${spot.before}`,
  row: (spot) => `A row is missing: ${spot.before}`,
  order: (spot) => `Rows change places: ${spot.before} and ${spot.after}`,
  state: (spot) => `${spot.name} is switched off or on`,
  presence: (spot) => `${spot.name} is not shown`,
}

export const wordsOf = (spot: Spot) => WORDS[spot.kind](spot)

/** What a kind of change is called where one chooses among them, in order. */
export const KIND_NAMES: Record<Spot['kind'], string> = {
  value: 'values',
  message: 'messages',
  text: 'texts',
  row: 'missing rows',
  count: 'extra rows',
  order: 'order',
  presence: 'presence',
  state: 'states',
}
