/** What a page shows only while the mouse points at something: needed to know when to point. */
import { closest, parentOf } from './nodes'

const SOON = 600
const MOST = 12

interface Hover {
  node: Element
  at: number
}

const hovers: Hover[] = []
let pressed = false
const shownBy = new WeakMap<Element, Element>()

/** Take note of what the mouse enters. */
export function noteHover(node: Element): void {
  pressed = false
  hovers.push({ node, at: performance.now() })
  if (hovers.length > MOST) hovers.shift()
}

/** Take note that the mouse or a key was pressed: what comes now is not because of pointing. */
export function notePress(): void {
  pressed = true
}

const SHOWING = new Set(['class', 'style', 'hidden', 'open', 'aria-hidden'])

/** Take note of what script shows or adds; soon after pointing, pointing is the reason. */
export function noteChange({ target, type, attributeName }: MutationRecord): void {
  const last = hovers.at(-1)
  if (pressed || !last || performance.now() - last.at > SOON || !(target instanceof Element)) return
  if (type === 'attributes' && !SHOWING.has(attributeName ?? '')) return
  if (!target.contains(last.node)) shownBy.set(target, last.node)
}

function hoverRules(sheet: CSSStyleSheet, found: string[]): void {
  let rules: CSSRuleList
  try {
    rules = sheet.cssRules
  } catch {
    return // a style sheet of another origin can not be read
  }
  for (const rule of rules) {
    if (!(rule instanceof CSSStyleRule) || !rule.selectorText.includes(':hover')) continue
    const { display, visibility, opacity } = rule.style
    if (display || visibility || opacity) found.push(...rule.selectorText.split(','))
  }
}

/** The part of the page that shows `node` only because its owner is pointed at, and that owner. */
function byStyle(node: Element): { part: Element; owner: Element } | null {
  const root = node.getRootNode() as Document | ShadowRoot
  const selectors: string[] = []
  for (const sheet of root.styleSheets) hoverRules(sheet, selectors)
  for (const selector of selectors) {
    const [before, after] = selector.split(':hover', 2)
    if (!before || !after?.trim()) continue
    try {
      const part = closest(node, selector.trim())
      const owner = part && closest(parentOf(part) ?? part, before.trim())
      if (part && owner) return { part, owner }
    } catch {
      continue // a selector that only a style sheet may hold
    }
  }
  return null
}

/** The node that has to be pointed at before `node` can be reached; null when none has to. */
export function neededHover(node: Element): Element | null {
  const style = byStyle(node)
  if (style) {
    const outside = hovers.filter(({ node: one }) => style.owner.contains(one) && !style.part.contains(one))
    return outside.at(-1)?.node ?? firstShown(style.owner, style.part)
  }
  for (let at: Element | null = node; at; at = parentOf(at)) {
    const cause = shownBy.get(at)
    if (cause?.isConnected && !at.contains(cause)) return cause
  }
  return null
}

function firstShown(owner: Element, but: Element): Element {
  return [...owner.children].find((child) => child !== but && child.checkVisibility()) ?? owner
}
