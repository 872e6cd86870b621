/** Looking for nodes: which could match, and whether input would reach them. */
import {
  attributesOf,
  boxOf,
  enabled,
  factsOf,
  labelOf,
  nameOf,
  pathOf,
  rowOf,
  sectionOf,
  textOf,
  tidy,
  visible,
} from './facts'
import type { Box, Facts } from './facts'
import { handleOf, nodeAt, nodeOf, parentOf, select } from './nodes'

export interface Clue {
  fact: string
  operator: string
  value: string
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

/** Watch the document for changes, so that a lookup can wait for one. */
export function watch(): void {
  const note = () => {
    changes += 1
    changedAt = performance.now()
    for (const wake of [...waiting]) wake()
  }
  new MutationObserver(note).observe(document, {
    subtree: true,
    childList: true,
    attributes: true,
    characterData: true,
  })
  addEventListener('input', note, true)
  addEventListener('load', note, true)
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

function compare(operator: string, found: string, wanted: string): boolean {
  if (!found) return false
  if (operator === 'is') return found === wanted
  if (operator === 'contains') return found.includes(wanted)
  if (operator === 'starts with') return found.startsWith(wanted)
  if (operator === 'ends with') return found.endsWith(wanted)
  return true // an operator that only the core decides must not narrow the search
}

/** Whether a name can be that of the node at all; the full computation is dear. */
function mayBeNamed(node: Element, wanted: string): boolean {
  const word = wanted.split(' ')[0] ?? ''
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
    near.some((text) => typeof text === 'string' && text.includes(word)) ||
    node.querySelector('[aria-label],[alt],[title],[aria-labelledby]') !== null ||
    node.matches('input,summary')
  )
}

const READERS: Record<string, (node: Element) => string> = {
  name: (node) => nameOf(node),
  text: textOf,
  label: labelOf,
  section: sectionOf,
  path: pathOf,
  tag: (node) => node.tagName.toLowerCase(),
}

function holds(node: Element, clue: Clue): boolean {
  if (clue.fact === 'row') return rowOf(node).some((cell) => compare(clue.operator, cell, clue.value))
  if (clue.fact === 'role') return true
  if (
    clue.fact === 'text' &&
    clue.operator === 'is' &&
    !node.textContent?.includes(clue.value.split(' ')[0] ?? '')
  )
    return false
  if (clue.fact === 'name' && clue.operator === 'is' && !mayBeNamed(node, clue.value)) return false
  const read = READERS[clue.fact]
  if (read) return compare(clue.operator, read(node), clue.value)
  const attribute = ATTRIBUTES[clue.fact] ?? clue.fact
  const value =
    attribute === 'data-testid'
      ? (attributesOf(node)['data-testid'] ?? '')
      : tidy(node.getAttribute(attribute))
  return compare(clue.operator, value, clue.value)
}

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
  for (const node of found) candidates.push(factsOf(node, order++))
  const one =
    shown.length === 1 ? shown[0] : shown.length === 0 && hidden.length === 1 ? hidden[0] : undefined
  const aimed = ask.aim && one ? await aim(one) : null
  return { candidates, total, stamp: changes, aimed }
}

/** Facts of nodes for a person to compare with: at most a few dozen, those that are shown first. */
export function nearby(selector: string): Facts[] {
  const shown: Element[] = []
  for (const node of select(selector)) {
    if (visible(node)) shown.push(node)
    if (shown.length >= 80) break
  }
  return shown.map((node, order) => factsOf(node, order))
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
  return performance.now() - changedAt < 120 ? 1 : 0
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
  return node
}

function reaches(hit: Element | null, node: Element): boolean {
  for (let at = hit; at; at = parentOf(at)) if (at === node) return true
  const label = (node as HTMLInputElement).labels?.[0]
  return !!label && !!hit && label.contains(hit)
}

/** Bring the node into view and tell where input reaches it, or why it does not. */
export async function aim(target: Element): Promise<Aimed> {
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
  if (
    before.x < 0 ||
    before.y < 0 ||
    before.x + before.width > view.width ||
    before.y + before.height > view.height
  ) {
    node.scrollIntoView({
      block: 'center',
      inline: 'nearest',
      behavior: 'instant',
    })
  }
  answer.box = boxOf(node)
  for (let frames = restless(node); frames > 0; frames -= 1) {
    await frame()
    const now = boxOf(node)
    if (!same(now, answer.box)) return { ...answer, box: now, problem: 'moving' }
  }
  const area =
    [...node.getClientRects()].find((rect) => rect.width > 0 && rect.height > 0) ??
    node.getBoundingClientRect()
  answer.x = Math.max(area.left, 0) / 2 + Math.min(area.right, view.width) / 2
  answer.y = Math.max(area.top, 0) / 2 + Math.min(area.bottom, view.height) / 2
  if (answer.x < 0 || answer.y < 0 || answer.x > view.width || answer.y > view.height)
    return { ...answer, problem: 'outside' }
  const hit = nodeAt(answer.x, answer.y)
  if (!reaches(hit, node)) return { ...answer, problem: 'covered', by: hit ? words(hit) : '' }
  return answer
}

export async function aimAt(handle: number): Promise<Aimed | null> {
  const node = nodeOf(handle)
  return node ? aim(node) : null
}
