import { reactive } from 'vue'

import { session } from '@/api/client'

/**
 * What was typed and is not saved yet, kept at this desk so that a reload or another page loses
 * nothing. Each account sees its own; what nobody came back for goes after a month.
 */
const PREFIX = 'lantern draft'
const LASTS = 30 * 24 * 3600 * 1000

interface Kept {
  at: number
  value: unknown
}

/** Whose drafts are meant: also of somebody whose sign-in has just run out. */
let owner = 0
const place = (key: string) => `${PREFIX} ${(owner = session.me?.account.id ?? owner)} ${key}`

/** Drafts for which this desk has no room: they would be lost by leaving, so that has to be asked. */
export const unkept = reactive(new Set<string>())
window.addEventListener('beforeunload', (event) => unkept.size && event.preventDefault())

/** Keep a draft under a key; where this desk has no room for it, leaving asks. */
export function keepDraft(key: string, value: unknown): void {
  try {
    localStorage.setItem(place(key), JSON.stringify({ at: Date.now(), value } satisfies Kept))
    unkept.delete(key)
  } catch {
    unkept.add(key)
  }
}

/** The draft of that key, if there is one. */
export function draftOf<T>(key: string): T | undefined {
  try {
    const kept = JSON.parse(localStorage.getItem(place(key)) ?? 'null') as Kept | null
    return kept ? (kept.value as T) : undefined
  } catch {
    return undefined
  }
}

export function dropDraft(key: string): void {
  unkept.delete(key)
  localStorage.removeItem(place(key))
}

/** The keys of all drafts of this account that begin so. */
export function draftsLike(start: string): string[] {
  return Object.keys(localStorage)
    .filter((name) => name.startsWith(place(start)))
    .map((name) => name.slice(place('').length))
}

/** Drop what is older than a month. */
export function tidyDrafts(): void {
  for (const name of Object.keys(localStorage).filter((one) => one.startsWith(PREFIX))) {
    const kept = JSON.parse(localStorage.getItem(name) ?? 'null') as Kept | null
    if (!kept?.at || kept.at < Date.now() - LASTS) localStorage.removeItem(name)
  }
}
