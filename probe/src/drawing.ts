/** What a page draws only where one has scrolled to: needed to know when to scroll. */
import { parentOf } from './nodes'

const SOON = 1500
/** Milliseconds after scrolling in which what is added is taken to be drawn because of it. */

let scrolled: { box: Element; at: number } | null = null
const drawnBy = new WeakMap<Element, Element>()

/** Take note of what is scrolled. */
export function noteScrolling(event: Event): void {
  const box = event.target instanceof Element ? event.target : document.scrollingElement
  if (box) scrolled = { box, at: performance.now() }
}

/** Take note of what is added: soon after scrolling, scrolling is the reason. */
export function noteDrawn({ type, addedNodes }: MutationRecord): void {
  if (type !== 'childList' || !scrolled || performance.now() - scrolled.at > SOON) return
  for (const node of addedNodes)
    if (node instanceof Element && scrolled.box.contains(node)) drawnBy.set(node, scrolled.box)
}

/** How far down the part of the page is scrolled that has drawn a node; null when it was there. */
export function scrolledTo(node: Element): number | null {
  for (let at: Element | null = node; at; at = parentOf(at)) {
    const box = drawnBy.get(at)
    if (box?.isConnected && box.scrollTop > 0) return Math.round(box.scrollTop)
  }
  return null
}
