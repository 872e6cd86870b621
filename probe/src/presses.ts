/**
 * Reporting presses. A press is told by where it began, whatever event the page listens to: pages
 * act on pointerdown, mouseup or click, and swap their nodes between two of them.
 */
import { beginAct, dropKeyAct, goOnWithAct } from './aftermath'
import { describe, meant } from './describing'
import type { Description } from './describing'
import { isEndOfCarrying } from './dragging'
import { isTextual } from './fields'
import { meanwhile } from './meanwhile'
import type { Meanwhile } from './meanwhile'
import { scrolledTo } from './drawing'
import type { Facts } from './facts'
import { factsOf } from './facts'
import { later } from './later'
import { closest, focused, handleOf, nodeAt, nodeOf, targetOf } from './nodes'
import { neededHovers } from './revealing'
import { shown, shownAtBegin } from './showing'
import { tidy } from './texts'

interface Held extends Description {
  type: string
  meanwhile: Meanwhile[]
  press: number
  detail: number
  pressable: boolean
  value?: string
  secret?: boolean
  spot: string
  hovers: Description[]
  scrolled: number | null
}

const LISTS = '[role=combobox],[aria-haspopup=listbox],[aria-haspopup=true][aria-expanded=true]'
const BIG = 12000
/** Square pixels from which on the place inside a thing without words of its own matters. */
const OWN = 'checkbox radio file range color date time datetime-local month week'.split(' ')

let held: Held | null = null
let first = 0
let opener: Element | null = null
let releasedAt = -1e9
let report: (event: object) => void = () => undefined
let pressable: () => string = () => '*'
let onPressed: () => void = () => undefined

/**
 * What was described when the last press or key began, for what comes of it, however long the page
 * takes over it in between.
 */
export function describedAtPress(node: Element): Description | null {
  return lastPressed?.facts.handle === handleOf(node) ? lastPressed : null
}
/** A key was pressed on what is described so. */
export function rememberKey(described: Description | null): void {
  lastPressed = described
}
/** What was described when the press began that is still held; null for another node. */
export function describedNow(node: Element): Description | null {
  return held?.facts.handle === handleOf(node) ? { facts: held.facts, rivals: held.rivals } : null
}
let lastPressed: Description | null = null

/** The list of the page's own that an option belongs to: named by it, in use, or opened last. */
function listWith(option: Element): Element | null {
  const box = closest(option, '[role=listbox]')
  const root = option.getRootNode() as Document | ShadowRoot
  const named = box?.id
    ? root.querySelector(`[aria-controls~="${CSS.escape(box.id)}"],[aria-owns~="${CSS.escape(box.id)}"]`)
    : null
  const open = (node: Element | null) =>
    node?.isConnected && node.matches(LISTS) && node.getAttribute('aria-expanded') !== 'false' ? node : null
  return named ?? open(focused()) ?? open(opener)
}

/** What a press on a label means: the control that answers it. */
function controlOf(hit: Element): Element | null {
  const control = (closest(hit, 'label') as HTMLLabelElement | null)?.control
  if (!control || control === hit || control.contains(hit)) return null
  return closest(hit, 'button,a[href],[role=button]') ? null : control
}

/** Where in a drawing, a map or an editor a press goes, in shares of it: "25% 60%"; "" elsewhere. */
function spotIn(node: Element, hit: Element, event: MouseEvent, byMarkup: boolean): string {
  const { left, top, width, height } = node.getBoundingClientRect()
  const drawn = hit.matches('canvas') || (node.matches('canvas,svg,img') && width * height > 2400)
  const editor = (node as HTMLElement).isContentEditable && tidy(node.textContent) !== ''
  const wide = !byMarkup && Math.max(width, height) > WIDE && tidy(node.textContent) === ''
  const roomy = !byMarkup && width * height > BIG && hit === node && !hasOwnText(node)
  const part = node.matches(COMPOSITE) && hit !== node && !tidy(hit.textContent) && isSmallIn(hit, width)
  if (!(drawn || editor || wide || roomy || part) || !width || !height) return ''
  const share = (from: number, all: number) => Math.max(0, Math.min(99, Math.round((from / all) * 1000) / 10))
  const [x, y] = [share(event.clientX - left, width), share(event.clientY - top, height)]
  return Math.abs(x - 50) < 1 && Math.abs(y - 50) < 1 ? '' : `${x}% ${y}%`
}

/** Whether a press meant nothing on the page, as one that closes what lies over it. */
function isGround(hit: Element): boolean {
  if (hit.matches('html,body')) return true
  if (hit.matches('svg,canvas,img,video,iframe,object,embed') || closest(hit, 'svg,[draggable=true]'))
    return false
  if (closest(hit, pressable()) || (hit as HTMLElement).isContentEditable || hasOwnText(hit)) return false
  if (getComputedStyle(hit).cursor !== 'auto' && getComputedStyle(hit).cursor !== 'default') return false
  const { width, height } = hit.getBoundingClientRect()
  if (width < innerWidth * 0.8) return false
  return height > innerHeight * 0.8 || holdsMuch(hit)
}

const MUCH = 4
/** Whether something is only what holds a part of the page, with things of many kinds in it. */
function holdsMuch(hit: Element): boolean {
  return hit.querySelectorAll(pressable()).length >= MUCH && !hit.querySelector('canvas')
}

/** Where in the window a press goes, in shares of it. */
function spotInWindow(event: MouseEvent): string {
  const share = (from: number, all: number) =>
    Math.max(0, Math.min(99.9, Math.round((from / all) * 1000) / 10))
  return `${share(event.clientX, innerWidth)}% ${share(event.clientY, innerHeight)}%`
}

/** Things that hold a handle of their own beside their words, such as what opens a branch. */
const COMPOSITE = '[role=treeitem],[role=option],[role=menuitem],[role=tab],[role=row],[role=listitem]'
const WIDE = 60
/** Pixels from which on it matters where in a thing without words a press goes. */

const isSmallIn = (hit: Element, width: number) => hit.getBoundingClientRect().width < width / 3

function hasOwnText(node: Element): boolean {
  return [...node.childNodes].some((one) => one.nodeType === Node.TEXT_NODE && !!one.nodeValue?.trim())
}

function onDown(event: PointerEvent): void {
  if (!event.isTrusted || event.button !== 0) return
  flush()
  const hit = targetOf(event)
  if (!hit) return
  const option = closest(hit, '[role=option]')
  const list = option && listWith(option)
  const control = option ? null : controlOf(hit)
  const ground = isGround(hit)
  const found = ground
    ? { node: document.body, pressable: false }
    : control
      ? { node: control, pressable: true }
      : meant(hit, pressable())
  const node = list ?? found.node
  const before = meanwhile(node)
  onPressed()
  held = {
    type: list ? 'option' : 'click',
    ...describe(node),
    meanwhile: before,
    press: 0,
    detail: 1,
    pressable: found.pressable,
    spot: list ? '' : ground ? spotInWindow(event) : spotIn(node, hit, event, !!closest(hit, pressable())),
    hovers: list ? [] : neededHovers(node).map((one) => describe(one)),
    scrolled: scrolledTo(node),
  }
  if (list) held.value = tidy(option.textContent)
  if (found.node.matches(LISTS)) opener = found.node
  held.press = beginAct(event, found.node)
}

function onMouseDown(event: MouseEvent): void {
  if (held && event.isTrusted) held.detail = event.detail
}

function onUp(event: PointerEvent): void {
  if (!event.isTrusted || event.button !== 0) return
  const one = held
  if (isEndOfCarrying(event)) drop()
  else flush()
  if (one && one.type === 'click' && !nodeOf(one.facts.handle)) watchWhetherTaken(one, event)
}

const TAKEN = 250
/** Milliseconds after which it shows whether the page took a press. */

/**
 * What is drawn anew while it is pressed gets no click: with the same thing standing there again,
 * and nothing changed that the page shows, the page never took the press.
 */
function watchWhetherTaken(one: Held, { clientX, clientY }: PointerEvent): void {
  const before = shownAtBegin()
  let clicked = false
  const onTaken = () => (clicked = true)
  addEventListener('click', onTaken, { capture: true, once: true })
  later(TAKEN, () => {
    removeEventListener('click', onTaken, { capture: true })
    const hit = nodeAt(clientX, clientY)
    const now = hit && factsOf(meant(hit, pressable()).node)
    const again = !!now && looksLike(now) === looksLike(one.facts)
    if (!clicked && again && JSON.stringify(shown().lines) === before)
      report({ type: 'lost', press: one.press })
  })
}

const looksLike = ({ tag, role, name, text, attributes, row }: Facts) =>
  JSON.stringify([tag, role, name, text, attributes.class ?? '', row])

/** A press that the browser took over, for its own dragging or scrolling, was none. */
export function drop(): void {
  held = null
}

/** Report what was pressed, if it was not yet. */
export function flush(): void {
  if (!held) return
  const one = held
  held = null
  if (one.detail === 1) first = one.facts.handle
  lastPressed = { facts: one.facts, rivals: one.rivals }
  releasedAt = performance.now()
  goOnWithAct()
  report(one)
}

/** Keys press things as well; a press of the mouse was reported when it was let go. */
function onClick(event: MouseEvent): void {
  if (!event.isTrusted || event.detail > 0 || performance.now() - releasedAt < 60) return
  const hit = targetOf(event)
  if (!hit) return
  const { node, pressable: can } = meant(hit, pressable())
  if (isTextual(node) || (node instanceof HTMLInputElement && OWN.includes(node.type))) return
  const before = meanwhile(node)
  dropKeyAct()
  report({
    type: 'click',
    ...describe(node),
    meanwhile: before,
    detail: 0,
    pressable: can,
    press: beginAct(event, node),
  })
}

function onTwice(event: MouseEvent): void {
  if (event.isTrusted) report({ type: 'dblclick', facts: { handle: first, tag: '' }, rivals: [] })
}

function onOther(event: MouseEvent): void {
  const hit = targetOf(event)
  if (!hit || !event.isTrusted || event.button !== 2) return
  const { node } = meant(hit, pressable())
  const before = meanwhile(node)
  report({
    type: 'contextmenu',
    ...describe(node),
    meanwhile: before,
    hovers: neededHovers(node).map((one) => describe(one)),
    spot: spotIn(node, hit, event, true),
    press: beginAct(event, node),
  })
}

/** Begin: `selector` tells what a press means as a whole, `sender` takes the events. */
export function startPresses(
  selector: () => string,
  sender: (event: object) => void,
  pressed: () => void,
): void {
  pressable = selector
  report = sender
  onPressed = pressed
  const capture = { capture: true }
  addEventListener('pointerdown', onDown, capture)
  addEventListener('mousedown', onMouseDown, capture)
  addEventListener('pointerup', onUp, capture)
  addEventListener('pointercancel', drop, capture)
  addEventListener('click', onClick, capture)
  addEventListener('dblclick', onTwice, capture)
  addEventListener('contextmenu', onOther, capture)
  addEventListener('pagehide', flush, capture)
}
