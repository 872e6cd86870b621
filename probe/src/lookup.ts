/** Looking for nodes: which could match. */
import { aim } from './aiming'
import { afterOf, besideBy, followedBy } from './around'
import { attributesOf } from './attributes'
import { nextChange, stamp } from './changing'
import { factsOf, nameOf, ownWords, pathOf, textOf, visible } from './facts'
import type { Facts } from './facts'
import { labelOf } from './labels'
import { select, unsureHosts } from './nodes'
import { sectionOf } from './sections'
import { cellsOf, columnOf, rowOf } from './rows'
import { tidy } from './texts'

export interface Clue {
  fact: string
  operator: string
  value: string
  loose?: boolean
}

interface Lookup {
  selector: string
  clues: Clue[]
  aim: boolean
  after: number | null
  wait: number
}

interface Candidates {
  nodes: Element[]
  found: Facts[]
  total: number
  one: Element | undefined
}

const CAP = 60
const ATTRIBUTES: Record<string, string> = {
  'test id': 'data-testid',
  'field name': 'name',
  'hint text': 'placeholder',
}

/** A text as it is compared when case and spacing are ignored; the core has the last word. */
function loosened(text: string): string {
  const bare = text.replace(/^[^\p{L}\p{N}_]+|[^\p{L}\p{N}_]+$/gu, '').replace(/[\s\-_]+/g, '')
  return bare.toLowerCase().replaceAll('ß', 'ss') || text.trim()
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
  if (fact === 'class word') return [...node.classList].some((word) => compare(operator, word, value, loose))
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

/** The nodes that could match, with their facts, and how many were looked at; shown ones first. */
export function candidatesFor(selector: string, unsorted: Clue[]): Candidates {
  const clues = [...unsorted].sort((a, b) => COST.indexOf(a.fact) - COST.indexOf(b.fact))
  let total = 0
  const shown: Element[] = []
  const hidden: Element[] = []
  for (const node of select(selector)) {
    total += 1
    if (clues.every((clue) => holds(node, clue))) (visible(node) ? shown : hidden).push(node)
  }
  const nodes = [...shown.slice(0, CAP), ...hidden.slice(0, CAP - Math.min(CAP, shown.length))]
  const beside = (['right of', 'below'] as const).filter((side) => clues.some(({ fact }) => fact === side))
  const found = nodes.map((node, order) => {
    const facts = factsOf(node, order)
    for (const side of beside) facts.attributes[side] = besideBy(node, side)
    return facts
  })
  const alone = shown.length === 1 || (shown.length === 0 && hidden.length === 1)
  return { nodes, found, total, one: alone ? nodes[0] : undefined }
}

export async function lookup(ask: Lookup): Promise<object> {
  if (ask.after !== null) await nextChange(ask.after, ask.wait)
  const { found, total, one } = candidatesFor(ask.selector, ask.clues)
  const aimed = ask.aim && one ? await aim(one) : null
  return { candidates: found, total, stamp: stamp(), aimed, hosts: unsureHosts() }
}
