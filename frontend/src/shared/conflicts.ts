import { computed, shallowRef } from 'vue'

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
