/** Everything on the page that a person could mean, with its facts: what a still is made of. */
import { newPass, sparse } from './facts'
import type { Sparse } from './facts'
import { nodeOf, parentOf, select } from './nodes'
import { blocksIn, rowAround } from './rows'

const MOST = 20000
const SILENT = 'script,style,noscript,template,option,head,head *,svg *'
const TEXTS =
  'td,th,dd,dt,output,li,p,label,[data-testid],[data-test],[data-qa],[draggable=true],[tabindex],[onclick],[role=status],[role=alert]'

function hasOwnText(node: Element): boolean {
  for (let child = node.firstChild; child; child = child.nextSibling) {
    if (child.nodeType === Node.TEXT_NODE && child.nodeValue?.trim()) return true
  }
  return false
}

const isMeant = (node: Element, special: string) =>
  node.matches(special) || node.matches(TEXTS) || hasOwnText(node) || blocksIn(node).length > 0

/** What a survey tells beside the facts: which of its nodes holds the node, and which row; counted from 1. */
export interface Placed extends Sparse {
  inside?: number
  in_row?: number
}

/** The number of the nearest node around one that was found before; 0 for none. */
function insideOf(node: Element, numbers: Map<Element, number>): number {
  for (let at = parentOf(node); at; at = parentOf(at)) {
    const number = numbers.get(at)
    if (number) return number
  }
  return 0
}

/**
 * The facts of all nodes that satisfy `special` (the selector of all kinds of control) or hold
 * text of their own, and of the node with the number `also`, in document order.
 */
export function survey(special: string, also = 0): Placed[] {
  const wanted = nodeOf(also)
  const pass = newPass()
  const found: Placed[] = []
  const numbers = new Map<Element, number>()
  const rows = new Map<Element, number>()
  for (const node of select('*')) {
    if (node !== wanted && (!isMeant(node, special) || node.matches(SILENT))) continue
    const number = found.length + 1
    const row = rowAround(node, pass.rows)
    if (row && !rows.has(row)) rows.set(row, number)
    const placed: Placed = sparse(node, found.length, pass)
    placed.inside = insideOf(node, numbers)
    placed.in_row = row ? rows.get(row)! : 0
    numbers.set(node, number)
    found.push(placed)
    if (found.length >= MOST) break
  }
  return found
}

/** The first node at an XPath; null when nothing is there, "wrong" when it is no XPath. */
export function nodeByXPath(path: string): Element | 'wrong' | null {
  try {
    const found = document.evaluate(path, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE, null)
    const node = found.singleNodeValue
    return node instanceof Element ? node : null
  } catch {
    return 'wrong'
  }
}

/** The absolute XPath of a node; "" inside a shadow root, into which no XPath reaches. */
export function xpathOf(node: Element): string {
  if (node.getRootNode() !== document) return ''
  const parts: string[] = []
  for (let at: Element | null = node; at; at = at.parentElement) {
    const foreign = at.namespaceURI !== 'http://www.w3.org/1999/xhtml'
    const tag = foreign ? `*[name()='${at.nodeName}']` : at.tagName.toLowerCase()
    const same: Element[] = at.parentElement
      ? [...at.parentElement.children].filter((child) => child.nodeName === at!.nodeName)
      : []
    parts.unshift(same.length > 1 ? `${tag}[${same.indexOf(at) + 1}]` : tag)
  }
  return `/${parts.join('/')}`
}
