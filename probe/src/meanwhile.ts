/** What became ready on the page between two things that a person did: what they waited for. */
import { describe } from './describing'
import type { Description } from './describing'
import { enabled, visible } from './facts'
import { select } from './nodes'

export interface Meanwhile extends Partial<Description> {
  how: 'shown' | 'enabled'
  own: boolean
}

const NOTABLE =
  'button,a[href],input,select,textarea,summary,dialog,output,h1,h2,h3,h4,[role]:not([role=option]):not([role=presentation])'
const PATIENCE = 400
/** Milliseconds below which nobody has waited for anything. */
const CAP = 5000
const MOST = 2

type State = 'hidden' | 'disabled' | 'ready'

let states = new WeakMap<Element, State>()
let seen = false
let last = 0

function stateOf(node: Element): State {
  return !visible(node) ? 'hidden' : enabled(node) ? 'ready' : 'disabled'
}

/** What became ready since the last call, in document order. */
function changes(): [Element, Meanwhile['how']][] {
  const before = states
  const found: [Element, Meanwhile['how']][] = []
  states = new WeakMap()
  let looked = 0
  for (const node of select(NOTABLE)) {
    if ((looked += 1) > CAP) break
    const now = stateOf(node)
    states.set(node, now)
    const then = before.get(node)
    if (seen && now === 'ready' && then !== 'ready')
      found.push([node, then === 'disabled' ? 'enabled' : 'shown'])
  }
  seen = true
  return found
}

/** Take note of what is there, once the document is. */
export function startWatching(): void {
  const note = () => {
    if (!seen) changes()
    last = performance.now()
  }
  if (document.readyState === 'loading') addEventListener('DOMContentLoaded', note, { once: true })
  else note()
}

/** Take note that a person goes on with what they were doing: nobody waits while typing. */
export function goesOn(): void {
  last = performance.now()
}

/** What a person has waited for before they turned to `target`; nothing when they did not wait. */
export function meanwhile(target: Element): Meanwhile[] {
  const waited = performance.now() - last > PATIENCE
  const found = changes()
  last = performance.now()
  if (!waited) return []
  const own = found.find(([node]) => node === target)
  if (own) return [{ how: own[1], own: true }]
  const sorted = [
    ...found.filter(([, how]) => how === 'enabled'),
    ...found.filter(([, how]) => how === 'shown'),
  ]
  return sorted.slice(0, MOST).map(([node, how]) => ({ how, own: false, ...describe(node) }))
}
