/** Looking for nodes: which could match, and whether input would reach them. */
import { beingMade } from './making'
import { afterOf, besideBy, followedBy } from './around'
import { attributesOf } from './attributes'
import { boxOf, enabled, factsOf, nameOf, ownWords, pathOf, textOf, visible } from './facts'
import type { Box, Facts } from './facts'
import { labelOf } from './labels'
import { sectionOf } from './sections'
import { noteEffect } from './aftermath'
import { closest, handleOf, nodeAt, nodeOf, onRoots, parentOf, select, unsureHosts } from './nodes'
import { noteDrawn } from './drawing'
import { noteChange } from './revealing'
import { cellsOf, columnOf, rowOf } from './rows'
import { tidy } from './texts'

export interface Clue {
  fact: string
  operator: string
  value: string
  loose?: boolean
}

export interface Aimed {
  handle: number
  x: number
  y: number
  box: Box
  problem: string
  by: string
}

interface Lookup {
  selector: string
  clues: Clue[]
  aim: boolean
  after: number | null
  wait: number
}

const CAP = 60
const ATTRIBUTES: Record<string, string> = {
  'test id': 'data-testid',
  'field name': 'name',
  'hint text': 'placeholder',
}

let changes = 0
let changedAt = 0
const waiting = new Set<() => void>()

/** Watch the document and its shadow roots for changes, so that a lookup can wait for one. */
export function watch(onChange: () => void = () => undefined): void {
  const note = (what: MutationRecord[] | Event) => {
    if (Array.isArray(what)) {
      what.slice(0, 50).forEach(noteChange)
      what.slice(0, 300).forEach(noteEffect)
      what.slice(0, 300).forEach(noteDrawn)
    }
    changes += 1
    changedAt = performance.now()
    for (const wake of [...waiting]) wake()
    onChange()
  }
  const observer = new MutationObserver(note)
  const all = {
    subtree: true,
    childList: true,
    attributes: true,
    attributeOldValue: true,
    characterData: true,
  }
  observer.observe(document, all)
  onRoots((root) => observer.observe(root, all))
  addEventListener('input', note, true)
  addEventListener('load', note, true)
}

/** A number that grows with every change of the document. */
export const stamp = (): number => changes

/** How the page looks, as far as it can tell: another answer means that it looks different. */
export function looks(): string {
  const moving = document.getAnimations().filter(({ playState }) => playState === 'running').length
  return [changes, moving, Math.round(scrollX), Math.round(scrollY), location.href].join(' ')
}

function nextChange(after: number, wait: number): Promise<void> {
  if (changes !== after) return Promise.resolve()
  return new Promise((resolve) => {
    const wake = () => {
      clearTimeout(timer)
      waiting.delete(wake)
      resolve()
    }
    const timer = setTimeout(wake, wait)
    waiting.add(wake)
  })
}

/** A text as it is compared when case and spacing are ignored; the core has the last word. */
function loosened(text: string): string {
  const bare = text.replace(/^[^\p{L}\p{N}_]+|[^\p{L}\p{N}_]+$/gu, '').replace(/[\s\-_]+/g, '')
  return bare.toLowerCase().replaceAll('ß', 'ss') || text.trim()
}

/** Resolves when nothing has changed for some time, at the latest after `limit` (both in ms). */
export async function quiet(time: number, limit: number): Promise<boolean> {
  const end = performance.now() + limit
  for (;;) {
    const left = Math.max(changedAt, 0) + time - performance.now()
    if (left <= 0 && document.readyState === 'complete') return true
    if (performance.now() >= end) return false
    await new Promise((resolve) => setTimeout(resolve, Math.max(20, Math.min(left, time))))
  }
}

function compare(operator: string, found: string, wanted: string, loose = false): boolean {
  if (!found) return false
  if (loose) return compare(operator, loosened(found), loosened(wanted))
  if (operator === 'is') return found === wanted
  if (operator === 'contains') return found.includes(wanted)
  if (operator === 'starts with') return found.startsWith(wanted)
  if (operator === 'ends with') return found.endsWith(wanted)
  return true // an operator that only the core decides must not narrow the search
}

/** Whether a name can be that of the node at all; the full computation is dear. */
function mayBeNamed(node: Element, wanted: string, loose = false): boolean {
  const start = (text: string) => (loose ? loosened(text) : text)
  const word = loose ? loosened(wanted).slice(0, 12) : (wanted.split(' ')[0] ?? '')
  if (node.hasAttribute('aria-labelledby') || (node as HTMLInputElement).labels?.length) return true
  const near = [
    node.textContent,
    node.getAttribute('aria-label'),
    node.getAttribute('title'),
    node.getAttribute('alt'),
    node.getAttribute('placeholder'),
    (node as HTMLInputElement).value,
  ]
  return (
    near.some((text) => typeof text === 'string' && start(text.slice(0, 4000)).includes(word)) ||
    node.querySelector('[aria-label],[alt],[title],[aria-labelledby],slot') !== null ||
    node.matches('input,summary')
  )
}

const READERS: Record<string, (node: Element) => string> = {
  name: (node) => nameOf(node),
  text: textOf,
  label: labelOf,
  section: (node) => sectionOf(node).name,
  path: (node) => pathOf(node),
  column: columnOf,
  after: afterOf,
  followed: followedBy,
  'right of': (node) => besideBy(node, 'right of'),
  below: (node) => besideBy(node, 'below'),
  tag: (node) => node.tagName.toLowerCase(),
  own: ownWords,
}

/** Facts that only the core knows, or lists: they must not narrow the search here. */
const LEFT_TO_CORE = new Set(['role', 'frames', 'options'])

function holds(node: Element, clue: Clue): boolean {
  const { fact, operator, value, loose } = clue
  if (LEFT_TO_CORE.has(fact)) return true
  if (fact.startsWith('cell ')) return compare(operator, cellsOf(node)[fact.slice(5)] ?? '', value, loose)
  if (fact === 'class word') return node.classList.contains(value)
  if (fact === 'row') return rowOf(node).some((cell) => compare(operator, cell, value, loose))
  const cheap = operator === 'is' && (fact === 'text' || fact === 'name')
  if (cheap && fact === 'text' && !loose && !node.textContent?.includes(value.split(' ')[0] ?? ''))
    return false
  if (cheap && fact === 'name' && !mayBeNamed(node, value, loose)) return false
  const read = READERS[fact]
  if (read) return compare(operator, read(node), value, loose)
  const attribute = ATTRIBUTES[fact] ?? fact
  const written = tidy(node.getAttribute(attribute))
  if (compare(operator, written, value, loose)) return true
  return WORKED_OUT.has(attribute) && compare(operator, attributesOf(node)[attribute] ?? '', value, loose)
}

/** Attributes that are not reported as they stand in the markup. */
const WORKED_OUT = new Set('data-testid href src data-date data-value data-key data-id'.split(' '))

/** Cheap facts first: most nodes fall out before anything dear is computed. */
const COST = [
  'tag',
  'id',
  'test id',
  'field name',
  'hint text',
  'title',
  'alt',
  'type',
  'href',
  'text',
  'label',
  'path',
  'row',
  'section',
  'name',
]

export async function lookup(ask: Lookup): Promise<object> {
  if (ask.after !== null) await nextChange(ask.after, ask.wait)
  const clues = [...ask.clues].sort((a, b) => COST.indexOf(a.fact) - COST.indexOf(b.fact))
  const candidates: Facts[] = []
  let total = 0
  let order = 0
  const shown: Element[] = []
  const hidden: Element[] = []
  for (const node of select(ask.selector)) {
    total += 1
    if (clues.every((clue) => holds(node, clue))) (visible(node) ? shown : hidden).push(node)
  }
  const found = [...shown.slice(0, CAP), ...hidden.slice(0, CAP - Math.min(CAP, shown.length))]
  const beside = (['right of', 'below'] as const).filter((side) => clues.some(({ fact }) => fact === side))
  for (const node of found) {
    const facts = factsOf(node, order++)
    for (const side of beside) facts.attributes[side] = besideBy(node, side)
    candidates.push(facts)
  }
  const one =
    shown.length === 1 ? shown[0] : shown.length === 0 && hidden.length === 1 ? hidden[0] : undefined
  const aimed = ask.aim && one ? await aim(one) : null
  return { candidates, total, stamp: changes, aimed, hosts: unsureHosts() }
}

const frame = () => new Promise<void>((resolve) => requestAnimationFrame(() => resolve()))

function same(a: Box, b: Box): boolean {
  return a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height
}

/** Frames to watch before a node counts as still: more while an animation of it is running. */
function restless(node: Element): number {
  const running = document.getAnimations().some((animation) => {
    const target = (animation.effect as KeyframeEffect | null)?.target
    return animation.playState === 'running' && target instanceof Element && target.contains(node)
  })
  if (running) return 3 // an animation that has just begun does not move at first
  // What opens begins to move a frame or two after it is there.
  return performance.now() - changedAt < 150 ? 3 : 0
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
  for (let frames = restless(node); frames > 0; frames -= 1) {
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
  if (place) return { ...answer, ...place }
  const hit = nodeAt(answer.x, answer.y)
  return { ...answer, problem: 'covered', by: hit ? words(hit) : '' }
}

export async function aimAt(handle: number, at: [number, number] | null = null): Promise<Aimed | null> {
  const node = nodeOf(handle)
  return node ? aim(node, at) : null
}
