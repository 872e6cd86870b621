/** The facts of a node. They are reported as they are; what they mean is decided elsewhere. */
import { computeAccessibleName, getRole } from 'dom-accessibility-api'

import { isCalendarDay } from './calendars'
import { closest, handleOf, nodeAt, parentOf } from './nodes'
import { cellsOf, columnOf, newRows, rowOf, blocksIn } from './rows'
import type { Rows } from './rows'
import { tidy } from './texts'

const TEST_IDS = ['data-testid', 'data-test-id', 'data-test', 'data-qa', 'data-cy', 'data-automation-id']
const KEPT = [
  'id',
  'name',
  'type',
  'placeholder',
  'title',
  'alt',
  'href',
  'src',
  'aria-label',
  'for',
  'class',
  'aria-haspopup',
  'min',
  'max',
  'maxlength',
  'pattern',
]

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

const LISTS =
  '[role=combobox],[role=listbox],[aria-haspopup=listbox],[aria-haspopup=tree],[aria-haspopup=grid]'

/** The text of a label, or of the term that a description belongs to. */
export function labelOf(node: Element): string {
  const labels = (node as HTMLInputElement).labels
  if (labels && labels.length > 0) {
    return tidy([...labels].map((label) => ownText(label, node)).join(' '))
  }
  const labelled = labelledBy(node)
  if (labelled) return labelled
  if (node.tagName === 'DD') return tidy(previous(node, 'DT')?.textContent)
  const dd = node.closest('dd')
  if (dd && dd.childElementCount === 1) return tidy(previous(dd, 'DT')?.textContent)
  return (isListLike(node) && standsFor(node)) || besideOf(node)
}

const isListLike = (node: Element) => node.matches(LISTS) && !(node instanceof HTMLSelectElement)

/** What the nodes say that label a node; not what is inside it, which is what it holds. */
function labelledBy(node: Element): string {
  const ids = node.getAttribute('aria-labelledby')
  if (!ids) return ''
  const root = node.getRootNode() as Document | ShadowRoot
  const parts = ids.split(/\s+/).map((id) => root.getElementById(id))
  const outside = parts.filter((part) => part && (!isListLike(node) || !node.contains(part)))
  return tidy(outside.map((part) => part!.textContent ?? '').join(' '))
}

/** The label of the native field that a page has hidden behind a control of its own. */
function standsFor(node: Element): string {
  for (let at: Element | null = node, up = 0; at && up < 4; at = parentOf(at), up += 1) {
    const near = [
      at.previousElementSibling,
      at.nextElementSibling,
      ...(up ? at.querySelectorAll('select,input') : []),
    ]
    for (const field of near) {
      if (!(field instanceof HTMLSelectElement || field instanceof HTMLInputElement) || field === node)
        continue
      const box = field.getBoundingClientRect()
      const hidden = !field.checkVisibility() || box.width < 3 || box.height < 3
      const label = field.labels?.[0]
      if (hidden && label) return ownText(label, field).trim()
    }
  }
  return ''
}

const SHORT = 40
const OWN_WORDS = 'a,button,option,td,th,tr,li,h1,h2,h3,h4,h5,h6,svg,img,canvas,iframe,[role]'
const FIELDS =
  'input,select,textarea,[role=combobox],[role=textbox],[role=spinbutton],[role=slider],[contenteditable]'
const OTHERS = `${OWN_WORDS},input,select,textarea`

/** The short text right before a value, such as “Price” before the amount; "" for all else. */
function besideOf(node: Element): string {
  if (node.matches('[aria-label],[title],[placeholder]')) return ''
  const field = node.matches(FIELDS) && !node.matches('[type=hidden],[type=submit],[type=button]')
  if (!field && node.matches(OTHERS)) return ''
  const before = node.previousElementSibling ?? (field ? beforeCell(node) : null)
  if (!before || before.matches(field ? `${FIELDS},svg,img,button` : OTHERS)) return ''
  if ((!field && node.childElementCount > 3) || before.childElementCount > (field ? 2 : 0)) return ''
  // One of a row of equals is not the label of the next.
  if (before.tagName === node.tagName && (before.className === node.className || likes(node) > 2)) return ''
  if (field && before.querySelector(FIELDS)) return ''
  const text = tidy(before.textContent)
  return text.length <= SHORT ? text : ''
}

const likes = (node: Element) =>
  [...(node.parentElement?.children ?? [])].filter((one) => one.tagName === node.tagName).length

/** The cell before that in which a field stands alone. */
function beforeCell(node: Element): Element | null {
  const cell = node.parentElement
  return cell?.matches('td,dd') && cell.childElementCount === 1 ? cell.previousElementSibling : null
}

function previous(node: Element, tag: string): Element | null {
  let at = node.previousElementSibling
  while (at && at.tagName !== tag) at = at.previousElementSibling
  return at
}

/** The text of a label without that of the control inside it. */
function ownText(label: Element, control: Element): string {
  if (!label.contains(control)) return label.textContent ?? ''
  let text = ''
  const walker = document.createTreeWalker(label, NodeFilter.SHOW_TEXT)
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    if (!node.parentElement?.closest('select,textarea,option')) text += node.textContent ?? ''
  }
  return text
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

export function visible(node: Element): boolean {
  const options = {
    checkOpacity: false,
    checkVisibilityCSS: true,
    contentVisibilityAuto: true,
  }
  if (!node.checkVisibility(options)) return false
  if (node === document.body) return true
  const box = node.getBoundingClientRect()
  // Fields that a page hides from all but screen readers are one pixel large.
  return (box.width > 1 && box.height > 1) || box.width > 8 || box.height > 8
}

export function enabled(node: Element): boolean {
  return !node.matches(':disabled') && !closest(node, '[aria-disabled="true"],[inert]')
}

/** The node whose box stands for this one: the label of a box that is drawn by other means. */
export function boxOf(node: Element): Box {
  const { x, y, width, height } = node.getBoundingClientRect()
  return { x, y, width, height }
}

const NEAR = 60
const SILENT = new Set(['SCRIPT', 'STYLE', 'NOSCRIPT', 'TEMPLATE', 'OPTION', 'TEXTAREA', 'TITLE'])

function speaks(text: Node): boolean {
  return !!text.nodeValue?.trim() && !SILENT.has(text.parentElement?.tagName ?? '')
}

/** The text right before a node in reading order; "" when it is the first. */
export function afterOf(node: Element): string {
  const walker = document.createTreeWalker(node.getRootNode(), NodeFilter.SHOW_TEXT)
  walker.currentNode = node
  for (let hops = 0; hops < 12; hops += 1) {
    const text = walker.previousNode()
    if (!text) return ''
    if (speaks(text)) return tidy(text.nodeValue).slice(-NEAR)
  }
  return ''
}

/** The text right behind a node in reading order. */
export function followedBy(node: Element): string {
  const walker = document.createTreeWalker(node.getRootNode(), NodeFilter.SHOW_TEXT)
  let last: Node = node
  while (last.lastChild) last = last.lastChild
  walker.currentNode = last
  for (let hops = 0; hops < 12; hops += 1) {
    const text = walker.nextNode()
    if (!text) return ''
    if (speaks(text)) return tidy(text.nodeValue).slice(0, NEAR)
  }
  return ''
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

/** What the eye finds at the left of a node, or above it; "" when there is nothing near. */
export function besideBy(node: Element, side: 'right of' | 'below'): string {
  const { left, top, width, height } = node.getBoundingClientRect()
  for (let away = 6; away < 320; away += 8) {
    const x = side === 'right of' ? left - away : left + Math.min(width / 2, 20)
    const y = side === 'right of' ? top + height / 2 : top - away
    const hit = nodeAt(x, y)
    if (!hit || hit.contains(node) || node.contains(hit)) continue
    const text = tidy(hit.textContent)
    if (text && text.length <= NEAR) return text
  }
  return ''
}

const SECTIONS =
  'section,article,fieldset,form,dialog,main,nav,aside,[role="dialog"],[role="region"],[role="group"]'

/** What neighbours have in common, for a pass over many nodes in which the page does not change. */
export interface Pass {
  sections: Map<Element | null, string>
  rows: Rows
  places: Map<Element, string>
}

export function newPass(): Pass {
  return { sections: new Map(), rows: newRows(), places: new Map() }
}

/** The name of the nearest part of the page that has one: legend, label or heading. */
export function sectionOf(node: Element, pass?: Pass): string {
  const parent = parentOf(node)
  const before = pass?.sections.get(parent)
  if (before !== undefined) return before
  const found = nearestSection(node)
  pass?.sections.set(parent, found)
  return found
}

function nearestSection(node: Element): string {
  for (let at = parentOf(node); at; at = parentOf(at)) {
    if (!at.matches(SECTIONS)) continue
    const label = at.getAttribute('aria-label')
    if (label) return tidy(label)
    const head = at.querySelector(
      ':scope > legend, :scope > h1, :scope > h2, :scope > h3, :scope > h4, :scope > header > h1, :scope > header > h2, :scope > header > h3',
    )
    if (head && head !== node) return tidy(head.textContent)
  }
  return ''
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

export function attributesOf(node: Element): Record<string, string> {
  const found: Record<string, string> = {}
  for (const name of KEPT) {
    const value = node.getAttribute(name)
    if (value) found[name] = tidy(value)
  }
  if ((node as HTMLElement).isContentEditable && node.hasAttribute('contenteditable'))
    found.contenteditable = 'true'
  if (found.href || found.src) leadOn(node, found)
  if (node.hasAttributes()) ownData(node, found)
  for (const name of TEST_IDS) {
    const value = node.getAttribute(name)
    if (value && !found['data-testid']) found['data-testid'] = tidy(value)
  }
  return found
}

/** Addresses as they lead, without the host that the page itself is on: tests follow environments. */
function leadOn(node: Element, found: Record<string, string>): void {
  for (const name of ['href', 'src']) {
    const written = found[name]
    if (!written || /^(data|blob|javascript):/i.test(written)) continue
    const led = resolved(written, node.baseURI)
    if (led === written) continue
    found[name] = tidy(led)
    found[`written ${name}`] = written
  }
}

/** An address resolved; those of the page's own origin as a path. */
export function resolved(address: string, base: string): string {
  try {
    const url = new URL(address, base)
    if (url.origin === location.origin && /^https?:/.test(url.protocol))
      return url.href.slice(url.origin.length)
    return url.href
  } catch {
    return address
  }
}

const DATA = /^data-(?:[a-z]+-)?(date|value|key|id)$/

/** What a page says of its things for its own scripts, where it says which one it is. */
function ownData(node: Element, found: Record<string, string>): void {
  for (const { name, value } of node.attributes) {
    const kind = DATA.exec(name)?.[1]
    if (kind && value && value.length <= 40 && !found[`data-${kind}`]) found[`data-${kind}`] = tidy(value)
  }
}

/** The facts of a node. In a pass over many, what neighbours have in common is spared. */
export function factsOf(node: Element, order = 0, pass?: Pass): Facts {
  const role = roleOf(node)
  const wholePage = node === document.body // known by being it, not by all the words on it
  return {
    handle: handleOf(node),
    tag: node.tagName.toLowerCase(),
    role,
    name: wholePage ? '' : nameOf(node, role),
    text: wholePage ? '' : textOf(node),
    label: labelOf(node),
    attributes: attributesOf(node),
    row: rowOf(node, pass?.rows),
    column: columnOf(node),
    cells: cellsOf(node, pass?.rows),
    section: sectionOf(node, pass),
    path: pathOf(node, pass),
    visible: visible(node),
    enabled: enabled(node),
    order,
    box: boxOf(node),
    after: afterOf(node),
    followed: followedBy(node),
    options: optionsOf(node),
    blocks: blocksIn(node).length,
    own: ownWords(node),
    calendar: isCalendarDay(node),
    parts: partsOf(node),
  }
}
