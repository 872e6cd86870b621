/** Scrolling through what a page draws only where one looks. */
import { select } from './nodes'

const STEP = 0.8
/** Share of what is seen by which one scrolls on. */
const MOST = 5

/** What can be scrolled downwards, the largest first. */
function scrollable(): Element[] {
  const root = document.scrollingElement ?? document.documentElement
  const found: Element[] = []
  for (const node of select('*')) {
    if (node === root || node.scrollHeight <= node.clientHeight + 20 || node.clientHeight < 60) continue
    if (['auto', 'scroll', 'overlay'].includes(getComputedStyle(node).overflowY)) found.push(node)
  }
  const room = (node: Element) => node.clientWidth * node.clientHeight
  found.sort((a, b) => room(b) - room(a))
  return [...(root.scrollHeight > innerHeight + 20 ? [root] : []), ...found].slice(0, MOST)
}

/**
 * Scroll all that can be scrolled to `down` pixels, or by most of what is seen; whether anything
 * moved. What is scrolled to its end goes on when more has come.
 */
export async function scrollOn(down: number | null): Promise<boolean> {
  let moved = false
  for (const node of scrollable()) {
    const before = node.scrollTop
    const view = node === document.scrollingElement ? innerHeight : node.clientHeight
    node.scrollTop = down ?? before + view * STEP
    moved ||= node.scrollTop !== before
  }
  await new Promise((resolve) => setTimeout(resolve, 30))
  return moved || down !== null
}
