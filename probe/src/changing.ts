/** When the document changes: what a lookup waits for, and how long it has been as it is. */
import { noteEffect } from './aftermath'
import { noteDrawn } from './drawing'
import { onRoots } from './nodes'
import { noteChange } from './revealing'

let changes = 0
let changedAt = 0
const waiting = new Set<() => void>()

/** Watch the document and its shadow roots for changes, so that a lookup can wait for one. */
export function watch(onChange: () => void = () => undefined): void {
  const note = (what: MutationRecord[] | Event) => {
    if (Array.isArray(what)) {
      what.slice(0, 50).forEach(noteChange)
      what.slice(0, 300).forEach(noteEffect)
      what.slice(0, 300).forEach(noteDrawn)
    }
    changes += 1
    changedAt = performance.now()
    for (const wake of [...waiting]) wake()
    onChange()
  }
  const observer = new MutationObserver(note)
  const all = {
    subtree: true,
    childList: true,
    attributes: true,
    attributeOldValue: true,
    characterData: true,
  }
  observer.observe(document, all)
  onRoots((root) => observer.observe(root, all))
  addEventListener('input', note, true)
  addEventListener('load', note, true)
}

/** A number that grows with every change of the document. */
export const stamp = (): number => changes

/** How the page looks, as far as it can tell: another answer means that it looks different. */
export function looks(): string {
  const moving = document.getAnimations().filter(({ playState }) => playState === 'running').length
  return [changes, moving, Math.round(scrollX), Math.round(scrollY), location.href].join(' ')
}

/** Resolves at the next change after a stamp, at the latest after `wait` ms. */
export function nextChange(after: number, wait: number): Promise<void> {
  if (changes !== after) return Promise.resolve()
  return new Promise((resolve) => {
    const wake = () => {
      clearTimeout(timer)
      waiting.delete(wake)
      resolve()
    }
    const timer = setTimeout(wake, wait)
    waiting.add(wake)
  })
}

/** For how many ms nothing has changed. */
export const unchanged = (): number => performance.now() - changedAt

/** Resolves when nothing has changed for some time, at the latest after `limit` (both in ms). */
export async function quiet(time: number, limit: number): Promise<boolean> {
  const end = performance.now() + limit
  for (;;) {
    const left = Math.max(changedAt, 0) + time - performance.now()
    if (left <= 0 && document.readyState === 'complete') return true
    if (performance.now() >= end) return false
    await new Promise((resolve) => setTimeout(resolve, Math.max(20, Math.min(left, time))))
  }
}
