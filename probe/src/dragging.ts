/** Reporting what a person drags: with the browser's own dragging, or carried by the page's script. */
import { describe, meant } from './describing'
import { isTextual } from './fields'
import { stamp } from './lookup'
import { closest, nodesAt, targetOf } from './nodes'

let pressable: () => string = () => '*'
let send: (event: object) => void = () => undefined

let dragged: ReturnType<typeof describe> | null = null

function onDragStart(event: DragEvent): void {
  const node = targetOf(event)
  dragged = node && event.isTrusted ? describe(closest(node, '[draggable=true]') ?? node) : null
}

function onDrop(event: DragEvent): void {
  const node = targetOf(event)
  if (!node || !dragged) return
  const onto = describe(dropZone(node))
  send({ type: 'drag', page: document.title, address: location.href, ...dragged, onto })
  dragged = null
}

const CARRIED = 10
/** Pixels that a held pointer has to move before something counts as carried. */

let held: { x: number; y: number; node: Element; stamp: number } | null = null
let carried: ReturnType<typeof describe> | null = null
let carriedAt = -1

/** Pages also carry things with the pointer alone; selecting text and sliding are something else. */
function onHold(event: PointerEvent): void {
  const node = targetOf(event)
  held = carried = null
  if (!node || !event.isTrusted || event.button !== 0) return
  if (
    isTextual(node) ||
    node.matches('select,option,input') ||
    closest(node, '[role=slider],[draggable=true]')
  )
    return
  held = { x: event.clientX, y: event.clientY, node, stamp: stamp() }
}

function onCarry(event: PointerEvent): void {
  if (!held || carried || !event.isTrusted) return
  if (Math.hypot(event.clientX - held.x, event.clientY - held.y) < CARRIED) return
  if (getSelection()?.isCollapsed === false) held = null
  else carried = describe(meant(held.node, pressable()).node)
}

function onLetGo(event: PointerEvent): void {
  const [from, what] = [held, carried]
  held = carried = null
  if (!from || !what || !event.isTrusted || getSelection()?.isCollapsed === false) return
  const away = Math.hypot(event.clientX - from.x, event.clientY - from.y)
  const below = nodesAt(event.clientX, event.clientY).find(
    (node) => !node.contains(from.node) && !from.node.contains(node),
  )
  const onto = below && away >= CARRIED ? describe(dropZone(below)) : null
  // Only at the end is it known whether the page took part: whatever it carries, it moves.
  const moved = stamp() !== from.stamp
  if (!onto || !moved) return
  carriedAt = event.timeStamp
  send({ type: 'drag', page: document.title, address: location.href, ...what, onto })
}

/** The part of the page that was dropped on: the nearest with a name of its own, not its text. */
function dropZone(node: Element): Element {
  return closest(node, '[aria-label],[role],[id],section,li,td') ?? node
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
}
