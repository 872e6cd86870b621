/** Where on the page secrets show: pictures are blurred there. */
import type { Box } from './facts'
import { isSecret, isTextual } from './fields'
import { select } from './nodes'

const MOST = 200

/**
 * The boxes of filled fields of secrets, and of whatever shows one of the values; fields that the
 * browser fills with dots only when `dots` are wanted as well.
 */
export function hiding(values: string[], dots: boolean): Box[] {
  const found: Box[] = []
  const add = ({ x, y, width, height }: DOMRect) => {
    if (width > 0 && height > 0 && found.length < MOST) found.push({ x, y, width, height })
  }
  const shows = (text: string) => values.some((value) => text.includes(value))
  for (const node of select('input,textarea,[contenteditable]')) {
    const value = (node as HTMLInputElement).value ?? ''
    if (!isTextual(node) || !value || (!dots && (node as HTMLInputElement).type === 'password')) continue
    if (isSecret(node) || shows(value)) add(node.getBoundingClientRect())
  }
  if (!values.length || !shows(document.documentElement.textContent ?? '')) return found
  const walker = document.createTreeWalker(document.body ?? document, NodeFilter.SHOW_TEXT)
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    if (!shows(node.nodeValue ?? '')) continue
    const range = document.createRange()
    range.selectNodeContents(node)
    add(range.getBoundingClientRect())
  }
  return found
}
