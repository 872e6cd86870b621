/** What a page shows only while the mouse points at something: needed to know when to point. */
import { visible } from './facts'
import { closest, parentOf, rootOf } from './nodes'

const SOON = 600
const CALM = 1500
/** Milliseconds after a press in which what appears is taken to come of the press. */
const MOST = 12
const DEEP = 4

interface Hover {
  node: Element
  at: number
}

const hovers: Hover[] = []
let pressedAt = -1e9
let scrolledAt = -1e9
const shownBy = new WeakMap<Element, Element>()

/** Take note of what the mouse enters. */
export function noteHover(node: Element): void {
  hovers.push({ node, at: performance.now() })
  if (hovers.length > MOST) hovers.shift()
}

/** Take note that the mouse or a key was pressed: what comes soon is not because of pointing. */
export function notePress(): void {
  pressedAt = performance.now()
}

/** Take note that something was scrolled: what is drawn then was not pointed at. */
export function noteScroll(): void {
  scrolledAt = performance.now()
}

/** When the document was loaded; not yet counts as now. */
function loadedAt(): number {
  const [entry] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[]
  return document.readyState === 'complete' ? (entry?.loadEventEnd ?? 0) : performance.now()
}

const SHOWING = new Set(['class', 'style', 'hidden', 'open', 'aria-hidden'])
const HID = /display:\s*none|visibility:\s*hidden|opacity:\s*0(?![.\d]*[1-9])/

/** Take note of what script shows or adds; soon after pointing, pointing is the reason. */
export function noteChange(record: MutationRecord): void {
  const { target, type, attributeName, addedNodes, removedNodes, oldValue } = record
  const last = hovers.at(-1)
  const now = performance.now()
  if (!last || now - last.at > SOON || !(target instanceof Element)) return
  if (now - pressedAt < CALM || now - scrolledAt < CALM || now - loadedAt() < CALM) return
  const note = (node: Element) => {
    if (!node.contains(last.node) && !shownBy.has(node) && visible(node)) shownBy.set(node, last.node)
  }
  if (type === 'childList') {
    if (removedNodes.length) return // swapped for its like, as frameworks do
    for (const node of addedNodes) if (node instanceof Element) note(node)
  } else if (type === 'attributes' && SHOWING.has(attributeName ?? '')) {
    // A class says nothing of what was before: what lies over the page may have been shown by it.
    if (attributeName === 'style' && !HID.test(oldValue ?? '')) return
    if (attributeName === 'class' && !floating(target)) return
    note(target)
  }
}

const floating = (node: Element) => ['absolute', 'fixed'].includes(getComputedStyle(node).position)

interface Rules {
  sheets: number
  rules: number
  hovering: string[]
  hiding: string[]
}
const known = new WeakMap<Document | ShadowRoot, Rules>()

/** The selectors of a tree's rules that show something under the mouse, and of those that hide. */
function rulesOf(root: Document | ShadowRoot): Rules {
  const count = [...root.styleSheets].reduce((sum, sheet) => sum + rulesIn(sheet).length, 0)
  const before = known.get(root)
  if (before && before.sheets === root.styleSheets.length && before.rules === count) return before
  const found: Rules = { sheets: root.styleSheets.length, rules: count, hovering: [], hiding: [] }
  const walk = (rules: Iterable<CSSRule>) => {
    for (const rule of rules) {
      if (rule instanceof CSSStyleRule) sort(rule, found)
      if (rule instanceof CSSGroupingRule) walk(rule.cssRules)
    }
  }
  for (const sheet of root.styleSheets) walk(rulesIn(sheet))
  known.set(root, found)
  return found
}

function rulesIn(sheet: CSSStyleSheet): CSSRule[] {
  try {
    return [...sheet.cssRules]
  } catch {
    return [] // a style sheet of another origin can not be read
  }
}

function sort(rule: CSSStyleRule, found: Rules): void {
  const { display, visibility, opacity } = rule.style
  if (!display && !visibility && !opacity) return
  const hides = display === 'none' || visibility === 'hidden' || opacity === '0'
  if (rule.selectorText.includes(':hover')) {
    if (!hides) found.hovering.push(...rule.selectorText.split(','))
  } else if (hides) found.hiding.push(rule.selectorText)
}

function matches(node: Element, selector: string): boolean {
  try {
    return node.matches(selector)
  } catch {
    return false // a selector that only a style sheet may hold
  }
}

/** The part of the page that shows `node` only because its owner is pointed at, and that owner. */
function byStyle(node: Element): { part: Element; owner: Element } | null {
  const { hovering, hiding } = rulesOf(node.getRootNode() as Document | ShadowRoot)
  for (const selector of hovering) {
    const [before, after] = selector.split(':hover', 2)
    if (!before || !after?.trim()) continue
    const rest = after.replace(/^\s*>/, '').trim()
    try {
      const part = closest(node, rest)
      const owner = part && closest(parentOf(part) ?? part, before.trim())
      // Without a rule that hides it, it is there all the time and only looks different.
      if (part && owner && hiding.some((one) => matches(part, one))) return { part, owner }
    } catch {
      continue
    }
  }
  return null
}

/** What fills most of the window is never what somebody points at to see something. */
function isGround(node: Element): boolean {
  const { width, height } = node.getBoundingClientRect()
  return node === document.body || width * height > (innerWidth * innerHeight) / 2
}

/** The node that has to be pointed at before `node` can be reached; null when none has to. */
function neededHover(node: Element): Element | null {
  const style = byStyle(node)
  if (style) {
    const outside = hovers.filter(({ node: one }) => style.owner.contains(one) && !style.part.contains(one))
    return outside.at(-1)?.node ?? firstShown(style.owner, style.part)
  }
  for (let at: Element | null = node; at; at = parentOf(at)) {
    const cause = shownBy.get(at)
    if (cause?.isConnected && !at.contains(cause) && !isGround(cause)) return cause
  }
  return null
}

/** All that has to be pointed at before `node` can be reached, the outermost first. */
export function neededHovers(node: Element): Element[] {
  const found: Element[] = []
  let at: Element | null = neededHover(node)
  while (at && at !== node && !found.includes(at) && found.length < DEEP) {
    found.unshift(at)
    at = neededHover(at)
  }
  return found
}

/** What a person points at in an owner: the text of its own before the part that shows. */
function firstShown(owner: Element, but: Element): Element {
  const children = [...owner.children].filter((child) => child !== but && child.checkVisibility())
  return rootOf(owner) ? owner : (children[0] ?? owner)
}
