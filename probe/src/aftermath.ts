/** What came of the last thing that a person did: told when it is known, at the latest before the next. */
import { visible } from './facts'
import { isTextual } from './fields'
import { stamp } from './changing'
import { focused, parentOf } from './nodes'
import { showsAtRest, showsBefore } from './showing'
import { tidy } from './texts'

export interface Aftermath {
  type: 'after'
  press: number
  changed: boolean
  mutated: boolean
  appeared: boolean
  prevented: boolean
  left: boolean
}

const EFFECT = 700
/** Milliseconds in which something has to come of an act to count as its effect. */
const MOST = 300
const ROOM = 300
/** Square pixels from which on something that appears is noticed. */

interface Act {
  number: number
  node: Element | null
  state: string
  stamp: number
  event: Event
  focus: Element | null
  timer: ReturnType<typeof setTimeout>
  added: Set<Element>
  shown: Set<Element>
  left: boolean
  moved: boolean
}

let last = Math.floor(Math.random() * 2 ** 30)
let current: Act | null = null
let send: (event: object) => void = () => undefined

/** An act begins: what came of the one before is told first. Returns the number of the act. */
export function beginAct(event: Event, node: Element | null): number {
  endAct()
  // Keys that are told only after the page took them, and what they press, come too late for that.
  // What keys do in a list of the browser is told when it has been chosen.
  const key = event.type === 'keydown' && event.eventPhase && !node?.matches('select')
  if (event.type === 'pointerdown' || key) showsBefore()
  last += 1
  if (node) nodes.set(last, node)
  nodes.delete(last - 20)
  current = {
    number: last,
    node,
    state: state(),
    stamp: stamp(),
    event,
    focus: focused(),
    timer: setTimeout(endAtRest, EFFECT),
    added: new Set(),
    shown: new Set(),
    left: false,
    moved: false,
  }
  return last
}

/** What came of the last act is certain when a person writes somewhere else than they pressed. */
export function endActOn(other: Element): void {
  if (current && current.event.type !== 'keydown' && current.node !== other) endAct()
}

const nodes = new Map<number, Element>()

/** The node of an act with all that is around it, up to the window; empty when it is not known. */
export function pathOfPress(press: number): EventTarget[] | null {
  const path: EventTarget[] = []
  for (let at: Element | null = nodes.get(press) ?? null; at; at = parentOf(at)) path.push(at)
  return path.length ? [...path, document] : null
}

/** The time of an act begins anew: it is only now complete, such as a press that is let go. */
export function goOnWithAct(): void {
  if (!current) return
  clearTimeout(current.timer)
  current.timer = setTimeout(endAtRest, EFFECT)
}

/** Whether the act that is going on was done to a field that text is typed into. */
export const isActInField = (): boolean => !!current?.node && isTextual(current.node)

let down = false
const HELD = 250
/** Milliseconds until it is looked again whether a button is still held. */

function endAtRest(): void {
  if (down && current) {
    current.timer = setTimeout(endAtRest, HELD) // what is dragged comes of the act when it is let go
    return
  }
  const field = current?.node && isTextual(current.node) && !appeared(current)
  endAct()
  if (!field) showsAtRest() // what only gives a field the focus is no sentence of its own
}

/** Tell what came of the last act; `gone` when the page goes away over it. */
export function endAct(gone = false): void {
  const act = current
  if (!act) return
  current = null
  clearTimeout(act.timer)
  const mutated = gone || act.moved || stamp() !== act.stamp
  send({
    type: 'after',
    page: document.title,
    address: location.href,
    press: act.number,
    mutated,
    changed: mutated || state() !== act.state || focusMoved(act),
    appeared: gone || appeared(act),
    prevented: act.event.defaultPrevented,
    left: act.left,
  })
}

/** A key pressed something: that is told as a press, not as a key. */
export function dropKeyAct(): void {
  if (current?.event.type !== 'keydown') return
  clearTimeout(current.timer)
  current = null
}

/** Take note that a field was left with another value than it had. */
export function noteLeft(): void {
  if (current) current.left = true
}

/** Take note that something happened that no change of the document shows. */
export function noteMoved(): void {
  if (current) current.moved = true
}

const HIDDEN = /display:\s*none|visibility:\s*hidden|opacity:\s*0(?![.\d]*[1-9])/

/** Take note of what changes while something comes of an act. */
export function noteEffect({
  type,
  target,
  addedNodes,
  removedNodes,
  attributeName,
  oldValue,
}: MutationRecord) {
  if (!current || current.added.size + current.shown.size > MOST) return
  if (type === 'childList') {
    if (removedNodes.length && addedNodes.length) return // swapped for its like, as frameworks do
    for (const node of addedNodes) if (node instanceof Element) current.added.add(node)
  } else if (type === 'attributes' && target instanceof Element) {
    const was = oldValue ?? ''
    const shows =
      attributeName === 'class'
        ? floats(target)
        : attributeName === 'style'
          ? HIDDEN.test(was)
          : ['hidden', 'open', 'aria-hidden', 'inert'].includes(attributeName ?? '')
    if (shows) current.shown.add(target)
  }
}

/** A class can make anything appear; only what lies over the page is taken for it. */
function floats(node: Element): boolean {
  return ['absolute', 'fixed'].includes(getComputedStyle(node).position) && node.childElementCount > 0
}

function appeared(act: Act): boolean {
  const isNew = (node: Element) =>
    !!node.isConnected &&
    !(act.node && (node.contains(act.node) || act.node.contains(node))) &&
    visible(node) &&
    area(node) > ROOM &&
    (tidy(node.textContent) !== '' ||
      node.querySelector('button,input,select,textarea,a,canvas,svg') !== null)
  return [...act.added].some(isNew) || [...act.shown].some(isNew) || dialogs() !== 0
}

const area = (node: Element) => {
  const { width, height } = node.getBoundingClientRect()
  return width * height
}

let openBefore = 0
/** How many more dialogs and popovers of the browser's top layer are open than before. */
function dialogs(): number {
  const open = document.querySelectorAll('dialog[open],:popover-open').length
  const more = Math.max(open - openBefore, 0)
  openBefore = open
  return more
}

/** Whether the page gave the focus to something else than what was pressed. */
function focusMoved(act: Act): boolean {
  const active = focused()
  if (!active || active === act.focus) return false
  // What takes keys is pressed to give it the focus; buttons and links take it by the way.
  if (active === act.node && !active.matches('button,a[href],summary,input,select,[role=button]')) return true
  return !(act.node && (active === act.node || active.contains(act.node) || act.node.contains(active)))
}

function state(): string {
  return [
    location.href,
    Math.round(scrollX),
    Math.round(scrollY),
    document.hasFocus(),
    document.querySelectorAll(':popover-open,dialog[open]').length,
  ].join(' ')
}

/** Begin: `sender` takes what is told. */
export function startAftermath(sender: (event: object) => void): void {
  send = sender
  addEventListener('pointerdown', () => (down = true), { capture: true, passive: true })
  for (const type of ['pointerup', 'pointercancel'])
    addEventListener(type, () => (down = false), { capture: true, passive: true })
  addEventListener('pagehide', () => endAct(true), { capture: true })
  addEventListener('scroll', noteMoved, { capture: true, passive: true })
}
