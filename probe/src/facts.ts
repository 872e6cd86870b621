/** The facts of a node. They are reported as they are; what they mean is decided elsewhere. */
import { computeAccessibleName, getRole } from 'dom-accessibility-api'

import { afterOf, followedBy } from './around'
import { attributesOf } from './attributes'
import { isCalendarDay } from './calendars'
import { isListLike, labelOf } from './labels'
import { closest, handleOf, parentOf } from './nodes'
import { cellsOf, columnOf, leadsRow, newRows, rowOf, blocksIn } from './rows'
import type { Rows } from './rows'
import { newSections, sectionOf } from './sections'
import type { Sections } from './sections'
import { tidy } from './texts'

export interface Box {
  x: number
  y: number
  width: number
  height: number
}

export interface Facts {
  handle: number
  tag: string
  role: string
  name: string
  text: string
  label: string
  attributes: Record<string, string>
  row: string[]
  column: string
  cells: Record<string, string>
  section: string
  path: string
  visible: boolean
  enabled: boolean
  order: number
  box: Box
  after: string
  followed: string
  options: string[]
  blocks: number
  own: string
  calendar: boolean
  parts: number
  grouped: boolean
  leads: boolean
}

/** What a person reads in the node; the text of fields is their value and not reported here. */
export function textOf(node: Element): string {
  if (node instanceof HTMLElement) {
    if (node instanceof HTMLInputElement || node instanceof HTMLTextAreaElement) return ''
    if (node instanceof HTMLSelectElement) return ''
    if (node.childElementCount === 0) return tidy(node.textContent)
    // innerText of a whole page is dear; big containers are told apart by other facts.
    if (node.querySelectorAll('*').length > 400) return tidy(node.textContent)
    return tidy(node.innerText)
  }
  return tidy(node.textContent)
}

const MOST_PARTS = 9

/** How many of the nodes right inside a node show a text, up to MOST_PARTS. */
function partsOf(node: Element): number {
  let parts = 0
  for (let at = node.firstElementChild; at && parts < MOST_PARTS; at = at.nextElementSibling)
    if (at.textContent?.trim()) parts += 1
  return parts
}

/** The text that is directly in a node, not in what it holds; "" where that is all of it. */
export function ownWords(node: Element): string {
  if (!node.childElementCount || node.childNodes.length > 40) return ''
  let text = ''
  for (const child of node.childNodes) if (child.nodeType === Node.TEXT_NODE) text += child.nodeValue ?? ''
  return tidy(text).slice(0, 80)
}

export function roleOf(node: Element): string {
  return getRole(node) ?? ''
}

const NAMELESS = new Set([
  '',
  'generic',
  'paragraph',
  'none',
  'presentation',
  'strong',
  'emphasis',
  'code',
  'time',
  'term',
  'definition',
  'status',
  'list',
  'rowgroup',
])

const FROM_CONTENT = new Set([
  'button',
  'link',
  'heading',
  'cell',
  'gridcell',
  'columnheader',
  'option',
  'menuitem',
  'tab',
])
const NAMED_APART = '[aria-label],[aria-labelledby],[title],[alt]'

/** The name where it is plain to see, which spares the full computation; null where it is not. */
function plainName(node: Element, role: string): string | null {
  if (node.matches(NAMED_APART)) return null
  const labels = (node as HTMLInputElement).labels
  if (labels?.length === 1 && !labels[0]!.querySelector(':not(input)')) return labelOf(node)
  const plain = FROM_CONTENT.has(role) && node.childElementCount === 0 && !(node instanceof HTMLInputElement)
  return plain ? tidy(node.textContent) : null
}

/** The accessible name, as the W3C computation gives it. */
export function nameOf(node: Element, role = roleOf(node)): string {
  // A list is called by its label; computing its name would take in the value that it shows.
  if (isListLike(node)) return tidy(node.getAttribute('aria-label')) || labelOf(node)
  const plain = plainName(node, role)
  if (plain !== null) return plain
  if (NAMELESS.has(role) && !node.hasAttribute('aria-label') && !node.hasAttribute('aria-labelledby'))
    return ''
  try {
    return tidy(computeAccessibleName(node))
  } catch {
    return '' // a page can hold markup that no computation survives
  }
}

export function visible(node: Element, box: Box = node.getBoundingClientRect()): boolean {
  const options = {
    checkOpacity: false,
    checkVisibilityCSS: true,
    contentVisibilityAuto: true,
  }
  if (!node.checkVisibility(options)) return false
  if (node === document.body) return true
  // Fields that a page hides from all but screen readers are one pixel large.
  return (box.width > 1 && box.height > 1) || box.width > 8 || box.height > 8
}

const BARRED = '[aria-disabled="true"],[inert]'

export function enabled(node: Element, pass?: Pass): boolean {
  if (node.matches(':disabled') || node.matches(BARRED)) return false
  const parent = parentOf(node)
  let barred = pass?.barred.get(parent)
  if (barred === undefined) {
    barred = !!parent && !!closest(parent, BARRED)
    pass?.barred.set(parent, barred)
  }
  return !barred
}

/** The node whose box stands for this one: the label of a box that is drawn by other means. */
export function boxOf(node: Element): Box {
  const { x, y, width, height } = node.getBoundingClientRect()
  return { x, y, width, height }
}

const MOST_OPTIONS = 50

/** What a list offers, its own options or those of the list that it opens. */
export function optionsOf(node: Element): string[] {
  if (node instanceof HTMLSelectElement)
    return [...node.options].slice(0, MOST_OPTIONS).map((option) => tidy(option.label || option.text))
  const role = node.getAttribute('role')
  if (role !== 'listbox' && role !== 'combobox') return []
  const root = node.getRootNode() as Document | ShadowRoot
  const opened = role === 'combobox' ? root.getElementById?.(node.getAttribute('aria-controls') ?? '') : node
  const options = opened?.querySelectorAll('[role="option"]') ?? []
  return [...options].slice(0, MOST_OPTIONS).map((option) => tidy(option.textContent))
}

/** What neighbours have in common, for a pass over many nodes in which the page does not change. */
export interface Pass {
  sections: Sections
  rows: Rows
  places: Map<Element, string>
  barred: Map<Element | null, boolean>
}

export function newPass(): Pass {
  return { sections: newSections(), rows: newRows(), places: new Map(), barred: new Map() }
}

/** Where the node is in the tree, from the nearest node with an id; the last resort. */
export function pathOf(node: Element, pass?: Pass): string {
  const parts: string[] = []
  for (let at: Element | null = node; at && parts.length < 8; at = at.parentElement) {
    if (at !== node && at.id && !/\d/.test(at.id)) {
      parts.unshift(`#${CSS.escape(at.id)}`)
      break
    }
    let place = pass?.places.get(at)
    if (place === undefined) {
      place = placeOf(at, pass)
      pass?.places.set(at, place)
    }
    parts.unshift(place)
  }
  return parts.join(' > ')
}

/** A tag with its place among those of the same tag; in a pass all brothers are counted at once. */
function placeOf(node: Element, pass?: Pass): string {
  const tag = node.tagName.toLowerCase()
  const parent = node.parentElement
  if (!parent) return tag
  const same = [...parent.children].filter((child) => child.tagName === node.tagName)
  if (same.length < 2) return tag
  if (pass) same.forEach((child, n) => pass.places.set(child, `${tag}:nth-of-type(${n + 1})`))
  return `${tag}:nth-of-type(${same.indexOf(node) + 1})`
}

/** Facts as they are sent of many nodes: without what is empty, which is most of it. */
export type Sparse = Pick<Facts, 'handle' | 'tag'> & Partial<Facts>

const isEmpty = (value: unknown) =>
  !value || (typeof value === 'object' && !('x' in value) && Object.keys(value).length === 0)

/** The facts of one of many nodes: what is missing is empty, and shown and enabled are what is not said not to be. */
export function sparse(node: Element, order: number, pass: Pass): Sparse {
  const kept: Record<string, unknown> = {}
  for (const [key, value] of Object.entries(factsOf(node, order, pass)))
    if (key === 'visible' || key === 'enabled' ? !value : !isEmpty(value)) kept[key] = value
  return kept as Sparse
}

/** The facts of a node. In a pass over many, what neighbours have in common is spared. */
export function factsOf(node: Element, order = 0, pass?: Pass): Facts {
  const role = roleOf(node)
  const wholePage = node === document.body // known by being it, not by all the words on it
  const section = sectionOf(node, pass?.sections)
  const { x, y, width, height } = node.getBoundingClientRect()
  const box = { x, y, width, height }
  return {
    handle: handleOf(node),
    tag: node.tagName.toLowerCase(),
    role,
    name: wholePage ? '' : nameOf(node, role),
    text: wholePage ? '' : textOf(node),
    label: labelOf(node),
    attributes: attributesOf(node),
    row: rowOf(node, pass?.rows),
    column: columnOf(node, pass?.rows),
    cells: cellsOf(node, pass?.rows),
    section: section.name,
    path: pathOf(node, pass),
    visible: visible(node, box),
    enabled: enabled(node, pass),
    order,
    box,
    after: afterOf(node),
    followed: followedBy(node),
    options: optionsOf(node),
    blocks: blocksIn(node).length,
    own: ownWords(node),
    calendar: isCalendarDay(node),
    parts: partsOf(node),
    grouped: section.grouped,
    leads: leadsRow(node, pass?.rows),
  }
}
