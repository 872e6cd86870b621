import { useEventListener } from '@vueuse/core'

/** Typing is no walking, nor is what is done in a dialog. */
const TYPING = 'input:not([type=checkbox]),textarea,select,[role=dialog]'

/**
 * Walk through a list with the arrow keys, wherever on the page the focus is.
 * @param keys what the list shows now, each by its key
 * @param at the key of what is chosen
 * @param choose is given the key of the next one, or of the one before
 */
export function useWalk<Key>(keys: () => Key[], at: () => Key, choose: (key: Key) => void) {
  useEventListener('keydown', (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).closest(TYPING)) return
    const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
    if (!by) return
    event.preventDefault()
    const all = keys()
    const next = all[Math.min(Math.max(all.indexOf(at()) + by, 0), all.length - 1)]
    if (next !== undefined) choose(next)
  })
}
