/** Where input reaches a node, or what keeps it away. */
import { boxOf, enabled, nameOf, textOf, visible } from './facts'
import type { Box } from './facts'
import { beingMade } from './making'
import { expectPress } from './meeting'
import { animations, comesToRest, frame, mayMove, restless } from './moving'
import { closest, handleOf, nodeAt, nodeOf, parentOf } from './nodes'

export interface Aimed {
  handle: number
  x: number
  y: number
  box: Box
  problem: string
  by: string
}

function same(a: Box, b: Box): boolean {
  return a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height
}

function words(node: Element): string {
  const name = nameOf(node) || textOf(node).slice(0, 40)
  const tag = node.tagName.toLowerCase()
  return name ? `${tag} “${name}”` : node.id ? `${tag} #${node.id}` : tag
}

/** What a press on the node goes to: a box drawn by its label is pressed there. */
function pressed(node: Element): Element {
  const labels = (node as HTMLInputElement).labels
  if (!visible(node) && labels?.[0] && visible(labels[0])) return labels[0]
  return isField(node) && isClipped(node) ? (drawnFor(node) ?? node) : node
}

const isField = (node: Element) =>
  node.matches('input,select,textarea,[role=combobox],[role=checkbox],[role=switch]')

/** Whether a page hides a field behind a drawing of its own, as it hides what screen readers read. */
function isClipped(node: Element): boolean {
  if (!visible(node)) return node.checkVisibility()
  for (let at = parentOf(node), up = 0; at && up < 2; at = parentOf(at), up += 1) {
    const { width, height } = at.getBoundingClientRect()
    if (width <= 2 || height <= 2) return true
  }
  return false
}

/** What is drawn for a hidden field: the nearest around it that takes up room. */
function drawnFor(node: Element): Element | null {
  for (let at = parentOf(node), up = 0; at && up < 4; at = parentOf(at), up += 1) {
    const { width, height } = at.getBoundingClientRect()
    if (width >= 14 && height >= 14) return width < innerWidth * 0.8 ? at : null
  }
  return null
}

function sameRoom(one: Element, other: Element): boolean {
  const [a, b] = [one.getBoundingClientRect(), other.getBoundingClientRect()]
  return Math.abs(a.width - b.width) < 12 && Math.abs(a.height - b.height) < 12
}

function reaches(hit: Element | null, node: Element): boolean {
  if (hit === document.documentElement && node === document.body) return true
  for (let at = hit; at; at = parentOf(at)) if (at === node) return true
  if (hit?.contains(node) && isField(node) && sameRoom(hit, node)) return true // drawn by what holds it
  const label = (node as HTMLInputElement).labels?.[0]
  return !!label && !!hit && label.contains(hit)
}

const OF_ITS_OWN =
  'a[href],button,input,select,textarea,summary,[contenteditable],[role=button],[role=link],[role=menuitem],' +
  '[role=option],[role=tab],[role=checkbox],[role=radio],[role=switch],[role=slider],[role=combobox]'

/** Whether something that answers presses by itself has come to lie at a place in a node. */
function isTaken(hit: Element, node: Element): boolean {
  const control = closest(hit, OF_ITS_OWN)
  return !!control && control !== node && !reaches(node, control)
}

/** Whether a press that met something else missed the node: it moved, or a control came over it. */
function isMissed(hit: Element, node: Element, { clientX, clientY }: PointerEvent): boolean {
  if (!node.isConnected || reaches(hit, node)) return false
  const there = [...node.getClientRects()].some(
    ({ left, right, top, bottom }) =>
      left <= clientX && clientX <= right && top <= clientY && clientY <= bottom,
  )
  return !there || isTaken(hit, node)
}

const TRIED = [0.5, 0.25, 0.75, 0.1, 0.9]

/** Where in a box input reaches the node: its middle before all else, or the place that is wanted. */
function reached(node: Element, area: Box, at: [number, number] | null): { x: number; y: number } | null {
  const left = Math.max(area.x, 0)
  const top = Math.max(area.y, 0)
  const right = Math.min(area.x + area.width, innerWidth)
  const bottom = Math.min(area.y + area.height, innerHeight)
  const places = at ? [at] : TRIED.flatMap((y) => TRIED.map((x) => [x, y] as [number, number]))
  for (const [across, along] of places) {
    const x = at ? area.x + area.width * across : left + (right - left) * across
    const y = at ? area.y + area.height * along : top + (bottom - top) * along
    const hit = nodeAt(x, y)
    if (reaches(hit, node) && !(at && hit && isTaken(hit, node))) return { x, y }
  }
  return null
}

/**
 * Bring the node into view and tell where input reaches it, or why it does not; `at` is the place
 * that is wanted, in shares of its box.
 */
export async function aim(target: Element, at: [number, number] | null = null): Promise<Aimed> {
  const node = pressed(target)
  const answer: Aimed = {
    handle: handleOf(target),
    x: 0,
    y: 0,
    box: boxOf(node),
    problem: '',
    by: '',
  }
  if (!visible(node)) return { ...answer, problem: 'hidden' }
  if (!enabled(target)) return { ...answer, problem: 'disabled' }
  const view = { width: innerWidth, height: innerHeight }
  const before = boxOf(node)
  const onPage = node === document.body && at !== null // then it is a place in the window
  const inView = () =>
    before.x >= 0 &&
    before.y >= 0 &&
    before.x + before.width <= view.width &&
    before.y + before.height <= view.height
  if (!onPage && !inView()) {
    node.scrollIntoView({
      block: 'center',
      inline: 'nearest',
      behavior: 'instant',
    })
  }
  answer.box = boxOf(node)
  if (beingMade()) return { ...answer, problem: 'moving' }
  const running = animations(node)
  if (running.some(comesToRest)) return { ...answer, problem: 'moving' }
  // The end of a movement is known before it is drawn: until then things lie where they were.
  if (mayMove(node)) await frame()
  answer.box = boxOf(node)
  for (let frames = restless(running); frames > 0; frames -= 1) {
    await frame()
    const now = boxOf(node)
    if (!same(now, answer.box)) return { ...answer, box: now, problem: 'moving' }
  }
  const rects = [...node.getClientRects()]
  const area = rects.find((rect) => rect.width > 0 && rect.height > 0) ?? node.getBoundingClientRect()
  const whole = onPage ? new DOMRect(0, 0, view.width, view.height) : at ? boxOf(node) : area
  answer.x = at
    ? whole.x + whole.width * at[0]
    : Math.max(area.left, 0) / 2 + Math.min(area.right, view.width) / 2
  answer.y = at
    ? whole.y + whole.height * at[1]
    : Math.max(area.top, 0) / 2 + Math.min(area.bottom, view.height) / 2
  if (answer.x < 0 || answer.y < 0 || answer.x > view.width || answer.y > view.height)
    return { ...answer, problem: 'outside' }
  const place = reached(node, whole, at)
  if (place) {
    expectPress(answer.handle, (hit, event) => (isMissed(hit, node, event) ? words(hit) : ''))
    return { ...answer, ...place }
  }
  const hit = nodeAt(answer.x, answer.y)
  return { ...answer, problem: 'covered', by: hit ? words(hit) : '' }
}

export async function aimAt(handle: number, at: [number, number] | null = null): Promise<Aimed | null> {
  const node = nodeOf(handle)
  return node ? aim(node, at) : null
}

/** Bring a node to the middle of the window, and the frames that it is in along; whether it is there. */
export function centre(handle: number): boolean {
  const node = nodeOf(handle)
  node?.scrollIntoView({ block: 'center', inline: 'center', behavior: 'instant' })
  return !!node
}
