import { draftOf, draftsLike, dropDraft, keepDraft } from '@/shared/drafts'

import type { Edit } from './useEdits'

/** A change that was made on version `base` and waits to be sent; `key` tells it from all others. */
export interface Pending {
  key: string
  base: number
  edit: Edit
}

const placeOf = (test: number, key: string) => `pending ${test} ${key}`

/** Keep a change at this desk until it is sent. */
export function keepPending(test: number, change: Pending): void {
  keepDraft(placeOf(test, change.key), { ...change, at: Date.now() })
}

/** Forget a change that was sent. */
export function settlePending(test: number, change: Pending): void {
  dropDraft(placeOf(test, change.key))
}

/** The changes of a test that wait at this desk, in the order in which they were made. */
export function pendingOf(test: number): Pending[] {
  return draftsLike(`pending ${test} `)
    .flatMap((key) => draftOf<Pending & { at: number }>(key) ?? [])
    .sort((one, other) => one.at - other.at)
    .map(({ key, base, edit }) => ({ key, base, edit }))
}

const WAITS: Record<string, string> = {
  remove: 'waits to be deleted',
  move: 'waits to be moved',
  shift: 'waits to be moved',
  wrap: 'waits to go into a block',
}

/** What waits to be done to a sentence, in words; "" for nothing but its values, which show it themselves. */
export function waitsFor(waiting: readonly Pending[], step: string): string {
  for (const { edit } of [...waiting].reverse()) {
    const about =
      'steps' in edit ? edit.steps.some((one) => one === step) : 'step' in edit && edit.step === step
    if (!about) continue
    if (edit.do === 'switch') return `waits to be switched ${edit.on ? 'on' : 'off'}`
    if (edit.do !== 'change') return WAITS[edit.do] ?? 'not saved yet'
    if (Object.keys(edit.fields).some((name) => name !== 'inputs')) return 'not saved yet'
  }
  return ''
}

/** The values in a change, for a person who has to type them again. */
export function inWords(edit: Edit): string {
  const found: string[] = []
  const gather = (part: unknown, name = ''): void => {
    if (Array.isArray(part)) for (const one of part) gather(one, name)
    else if (part && typeof part === 'object') for (const [key, one] of Object.entries(part)) gather(one, key)
    else if (part !== null && !['do', 'step', 'row', 'id', 'column'].includes(name))
      found.push(`${name} “${String(part)}”`)
  }
  gather(edit)
  return found.slice(0, 12).join(', ')
}
