/** The texts around a node: before and behind it in reading order, and beside it. */
import { nodeAt } from './nodes'
import { tidy } from './texts'

const NEAR = 60
const SILENT = new Set(['SCRIPT', 'STYLE', 'NOSCRIPT', 'TEMPLATE', 'OPTION', 'TEXTAREA', 'TITLE'])

function speaks(text: Node): boolean {
  return /\S/.test(text.nodeValue ?? '') && !SILENT.has(text.parentElement?.tagName ?? '')
}

/** The text right before a node in reading order; "" when it is the first. */
export function afterOf(node: Element): string {
  const walker = document.createTreeWalker(node.getRootNode(), NodeFilter.SHOW_TEXT)
  walker.currentNode = node
  for (let hops = 0; hops < 12; hops += 1) {
    const text = walker.previousNode()
    if (!text) return ''
    if (speaks(text)) return tidy(text.nodeValue).slice(-NEAR)
  }
  return ''
}

/** The text right behind a node in reading order. */
export function followedBy(node: Element): string {
  const walker = document.createTreeWalker(node.getRootNode(), NodeFilter.SHOW_TEXT)
  let last: Node = node
  while (last.lastChild) last = last.lastChild
  walker.currentNode = last
  for (let hops = 0; hops < 12; hops += 1) {
    const text = walker.nextNode()
    if (!text) return ''
    if (speaks(text)) return tidy(text.nodeValue).slice(0, NEAR)
  }
  return ''
}

/** What the eye finds at the left of a node, or above it; "" when there is nothing near. */
export function besideBy(node: Element, side: 'right of' | 'below'): string {
  const { left, top, width, height } = node.getBoundingClientRect()
  for (let away = 6; away < 320; away += 8) {
    const x = side === 'right of' ? left - away : left + Math.min(width / 2, 20)
    const y = side === 'right of' ? top + height / 2 : top - away
    const hit = nodeAt(x, y)
    if (!hit || hit.contains(node) || node.contains(hit)) continue
    const text = tidy(hit.textContent)
    if (text && text.length <= NEAR) return text
  }
  return ''
}
