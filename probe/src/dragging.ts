/** Reporting what a person drags: with the browser's own dragging, or carried by the page's script. */
import { describe, meant } from './describing'
import type { Description } from './describing'
import { isTextual } from './fields'
import { stamp } from './changing'
import { closest, nodesAt, targetOf } from './nodes'
import { describedNow } from './presses'

let pressable: () => string = () => '*'
let send: (event: object) => void = () => undefined

let dragged: Description | null = null

function onDragStart(event: DragEvent): void {
  const node = targetOf(event)
  dragged = node && event.isTrusted ? describe(closest(node, '[draggable=true]') ?? node) : null
}

function onDrop(event: DragEvent): void {
  const node = targetOf(event)
  if (!node || !dragged) return
  const zone = dropZone(node)
  const onto = { ...describe(zone), at: shareIn(zone, event) }
  send({ type: 'drag', page: document.title, address: location.href, ...dragged, onto })
  dragged = null
}

const CARRIED = 10
/** Pixels that a held pointer has to move before something counts as carried. */
const MIDDLE = 10
/** Percent from the middle within which a place in a thing is none of its own. */
const LANDS = 40
/** Milliseconds in which a page puts down what it let be carried. */

interface Hold {
  x: number
  y: number
  node: Element
  stamp: number
  box: DOMRect
  parent: Element | null
  place: number
  selected: string
}

let held: Hold | null = null
let carried: Description | null = null
let thing: Element | null = null
let carriedAt = -1
let landing: (() => void) | null = null

const placeOf = (node: Element) => (node.parentElement ? [...node.parentElement.children].indexOf(node) : 0)

/** Pages also carry things with the pointer alone; selecting text and sliding are something else. */
function onHold(event: PointerEvent): void {
  land()
  const node = targetOf(event)
  held = carried = null
  if (!node || !event.isTrusted || event.button !== 0) return
  if (
    isTextual(node) ||
    node.matches('select,option,input') ||
    closest(node, '[role=slider],[draggable=true]')
  )
    return
  const { node: whole } = meant(node, pressable())
  thing = whole
  held = {
    x: event.clientX,
    y: event.clientY,
    node,
    stamp: stamp(),
    box: whole.getBoundingClientRect(),
    parent: whole.parentElement,
    place: placeOf(whole),
    selected: String(getSelection()),
  }
}

/** Whether a person selects text: then more of it is selected, and nothing of the page moves. */
function selects(from: Hold): boolean {
  const selection = getSelection()
  return selection?.isCollapsed === false && String(selection) !== from.selected && stamp() === from.stamp
}

function onCarry(event: PointerEvent): void {
  if (!held || carried || !event.isTrusted) return
  if (Math.hypot(event.clientX - held.x, event.clientY - held.y) < CARRIED) return
  if (selects(held)) held = null
  else carried = thing ? (describedNow(thing) ?? describe(thing)) : describe(held.node)
}

function onLetGo(event: PointerEvent): void {
  const [from, what, whole] = [held, carried, thing]
  held = carried = null
  if (!from || !what || !whole || !event.isTrusted || selects(from)) return
  const [right, down] = [event.clientX - from.x, event.clientY - from.y]
  if (Math.hypot(right, down) < CARRIED) return
  const below = nodesAt(event.clientX, event.clientY).find(
    (node) => !node.contains(from.node) && !from.node.contains(node) && !whole.contains(node),
  )
  // Where the page has already put it down while it is held, it is in what it was carried to.
  const holder = below ?? whole.parentElement
  const zone = holder ? dropZone(holder) : null
  const onto = zone && { ...describe(zone), at: shareIn(zone, event) }
  // Only at the end is it known whether the page took part: whatever it carries, it moves.
  const moved = stamp() !== from.stamp
  if (!moved) return
  carriedAt = event.timeStamp
  landing = () => {
    const by = stayed(from, whole, right, down)
    if (by || onto)
      send({
        type: 'drag',
        page: document.title,
        address: location.href,
        ...what,
        by,
        onto: by ? null : onto,
      })
  }
  setTimeout(land, LANDS)
}

/** Tell what was carried, once the page has put it down. */
function land(): void {
  const tell = landing
  landing = null
  tell?.()
}

/**
 * How far a thing was carried that only moved where it is, such as a knob or a splitter; null for
 * one that was put elsewhere in the page.
 */
function stayed(from: Hold, node: Element, right: number, down: number): [number, number] | null {
  if (!node.isConnected || node.parentElement !== from.parent || placeOf(node) !== from.place) return null
  const box = node.getBoundingClientRect()
  const [dx, dy] = [box.x - from.box.x, box.y - from.box.y]
  const follows = (way: number, moved: number) =>
    Math.abs(way) >= CARRIED && way * moved > 0 && Math.abs(moved) > Math.abs(way) * 0.3
  if (!follows(right, dx) && !follows(down, dy)) return null
  return [Math.round(right), Math.round(down)]
}

/** Where in a thing the pointer is, in shares of it. */
function shareIn(node: Element, event: MouseEvent): string {
  const { left, top, width, height } = node.getBoundingClientRect()
  const share = (from: number, all: number) =>
    Math.max(1, Math.min(99, Math.round((from / (all || 1)) * 100)))
  const [x, y] = [share(event.clientX - left, width), share(event.clientY - top, height)]
  const middle = Math.abs(x - 50) <= MIDDLE && Math.abs(y - 50) <= MIDDLE
  return middle ? '' : `${x}% ${y}%`
}

/** The part of the page that was dropped on: the nearest with a name of its own, not its text. */
function dropZone(node: Element): Element {
  return closest(node, '[aria-label],[role],[id],section,li,td,th') ?? node
}

/** Whether a click is only the letting go of what was carried. */
export const isEndOfCarrying = (event: Event): boolean => event.timeStamp === carriedAt

/** Start reporting; `selector` tells what a press means as a whole, `sender` takes the events. */
export function startDragging(selector: () => string, sender: (event: object) => void): void {
  pressable = selector
  send = sender
  addEventListener('pointerdown', onHold, { capture: true })
  addEventListener('pointermove', onCarry, { capture: true })
  addEventListener('pointerup', onLetGo, { capture: true })
  addEventListener('dragstart', onDragStart)
  addEventListener('drop', onDrop, { capture: true })
  for (const type of ['keydown', 'pagehide']) addEventListener(type, land, { capture: true })
}
