/** What a press met: between aiming and pressing a page may move, or lay something else there. */
import { targetOf } from './nodes'

let awaited = 0
let meets: (hit: Element, event: PointerEvent) => string = () => ''
let met = ''

/** The next press is for a node: `told` says in words what it met instead, "" for the node. */
export function expectPress(handle: number, told: typeof meets): void {
  awaited = handle
  meets = told
  met = ''
}

/** What the press that was for a node met instead; "" for the node itself, and for not known. */
export function metBy(handle: number): string {
  return awaited === handle ? met : ''
}

/** Begin to look at presses. */
export function startMeeting(): void {
  const look = (event: PointerEvent) => {
    const hit = targetOf(event)
    if (!event.isTrusted || !hit) return
    met = meets(hit, event)
    meets = () => met // the second of two presses tells nothing of the first
  }
  addEventListener('pointerdown', look, { capture: true })
}
