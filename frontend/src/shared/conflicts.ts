import { computed, shallowRef } from 'vue'

import { ApiProblem } from '@/api/client'

import { asked } from './questions'

/** Somebody else changed a text while one's own was being typed: which of them is to stand? */
export interface Clash {
  what: string
  mine: string
  theirs: string
  /** Settle it: the text that is to stand, null for theirs. */
  settle: (text: string | null) => void
}

const waiting = shallowRef<Clash[]>([])

/** The clash that is to be settled now. */
export const clash = computed(() => waiting.value[0])

/** Ask which text is to stand; resolves with it, null for theirs. What is asked first comes first. */
export function decide(what: string, mine: string, theirs: string): Promise<string | null> {
  return new Promise((resolve) => {
    const settle = (text: string | null) => {
      waiting.value = waiting.value.slice(1)
      resolve(text)
    }
    waiting.value = [...waiting.value, { what, mine, theirs, settle }]
  })
}

/**
 * What is to stand of a text of one's own that was made from `was`, where it is `now` something
 * else; null for theirs.
 */
export async function merged(what: string, mine: string, was: string, now: string): Promise<string | null> {
  if (now === was || now === mine) return mine
  return decide(what, mine, now)
}

/** Whether one's own choice is to stand where somebody else chose otherwise meanwhile. */
export async function mineStands(what: string, mine: unknown, was: unknown, now: unknown): Promise<boolean> {
  if (JSON.stringify(now) === JSON.stringify(was) || JSON.stringify(now) === JSON.stringify(mine)) return true
  const say = (value: unknown) =>
    value === true ? 'on' : value === false ? 'off' : value === null ? 'as elsewhere' : `“${String(value)}”`
  return asked({
    title: 'Somebody else changed this meanwhile',
    text: `${what}: theirs is ${say(now)}, yours is ${say(mine)}.`,
    yes: 'Save yours',
    no: 'Keep theirs',
  })
}

/** Whether the server refused a change because somebody else has changed the same thing since. */
export const isConflict = (error: unknown) => error instanceof ApiProblem && error.code === 'conflict'

/**
 * Save a text that was made from `was`; where the server holds another by now, of which this page
 * has not heard yet, the person says what is to stand. Returns what saving gave, null for theirs.
 */
export async function saved<T>(
  what: string,
  mine: string,
  was: string,
  save: (text: string, was: string) => Promise<T>,
  newest: () => Promise<string>,
): Promise<T | null> {
  try {
    return await save(mine, was)
  } catch (error) {
    if (!isConflict(error)) throw error
    const now = await newest()
    const text = await merged(what, mine, was, now)
    return text === null ? null : saved(what, text, now, save, newest)
  }
}
