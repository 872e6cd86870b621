/** Reading properties of a node, and the few things that are done by script. */
import { enabled, nameOf, textOf, visible } from './facts'
import { isTextual } from './fields'
import { focused, handleOf, nodeOf, onceOf, parentOf } from './nodes'
import { numberOfRows, tableOf } from './tables'
import { tidy } from './texts'

const yes = (value: boolean) => (value ? 'yes' : 'no')

function optionText(option: HTMLOptionElement | undefined): string {
  return tidy(option?.label || option?.text)
}

function ticked(node: Element): string {
  if (node instanceof HTMLInputElement) return yes(node.checked)
  return yes(node.getAttribute('aria-checked') === 'true')
}

function limitOf(node: Element, side: 'min' | 'max', usual: string): string | null {
  if (node instanceof HTMLInputElement && node.type === 'range') return node[side] || usual
  return node.matches('[role=slider]') ? (node.getAttribute(`aria-value${side}`) ?? usual) : null
}

/** One entry a property; what a property is good for is said in the core. */
const PROPERTIES: Record<string, (node: Element) => string | null> = {
  text: (node) => textOf(node),
  value: (node) => {
    if (node instanceof HTMLInputElement && node.type === 'password') return ''
    if (node.matches('[role=slider],[role=spinbutton]') && node.hasAttribute('aria-valuenow'))
      return node.getAttribute('aria-valuenow')
    const value = (node as HTMLInputElement).value
    return typeof value === 'string' ? value : null
  },
  lowest: (node) => limitOf(node, 'min', '0'),
  highest: (node) => limitOf(node, 'max', '100'),
  'selected option': (node) =>
    node instanceof HTMLSelectElement ? [...node.selectedOptions].map(optionText).join(', ') : null,
  ticked: (node) =>
    node.matches('input[type=checkbox],input[type=radio],[role=checkbox],[role=radio],[role=switch]')
      ? ticked(node)
      : null,
  'number of rows': numberOfRows,
  'number of options': (node) => (node instanceof HTMLSelectElement ? String(node.options.length) : null),
  table: tableOf,
  shown: (node) => yes(visible(node)),
  enabled: (node) => yes(enabled(node)),
  name: (node) => nameOf(node),
}

/** Whether the focus is on a node or on something inside it. */
function holdsFocus(node: Element): boolean {
  for (let at = focused(); at; at = parentOf(at)) if (at === node) return true
  return false
}

export function read(handle: number, property: string): string | null {
  const node = nodeOf(handle)
  if (!node) return null
  if (property === 'focus') {
    if (!holdsFocus(node)) (node as HTMLElement).focus()
    return ''
  }
  if (property === 'focused') return yes(holdsFocus(node))
  // An empty editor with the caret in it: what was chosen for the next letter, such as bold, holds.
  if (property === 'awaits')
    return yes((node as HTMLElement).isContentEditable && !node.textContent?.trim() && holdsFocus(node))
  if (property === 'writes') return yes(isTextual(focused() ?? document.body))
  if (property.startsWith('attribute ')) return node.getAttribute(property.slice(10)) ?? ''
  if (property.startsWith('property ')) return scalar(node, property.slice(9))
  return PROPERTIES[property]?.(node) ?? null
}

const LONG = new Set(['innerHTML', 'outerHTML', 'innerText', 'outerText', 'textContent', 'baseURI'])

/** A plain value that the node has in script, as text; null for all else, and for a password. */
function scalar(node: Element, name: string): string | null {
  if (node instanceof HTMLInputElement && node.type === 'password' && /value/i.test(name)) return null
  const value: unknown = (node as unknown as Record<string, unknown>)[name]
  if (typeof value === 'boolean') return yes(value)
  return typeof value === 'string' || typeof value === 'number' ? tidy(String(value)) : null
}

/** All properties of a node with their present values, attributes included. */
export function readAll(node: Element): Record<string, string> {
  const found: Record<string, string> = {}
  for (const [name, get] of Object.entries(PROPERTIES)) {
    const value = get(node)
    if (value !== null) found[name] = value
  }
  for (const { name, value } of node.attributes) found[`attribute ${name}`] = tidy(value)
  for (const name in node) {
    if (LONG.has(name) || /^[A-Z_]+$/.test(name)) continue // constants say nothing of the node
    const value = scalar(node, name)
    if (value) found[`property ${name}`] = value
  }
  return found
}

const SET_BY_SCRIPT = new Set(['date', 'time', 'month', 'week', 'datetime-local', 'color'])

/**
 * Focus a field and select what is in it, or go to its end; "set" when keys can not fill it and it
 * was set by script, "keys" when they can.
 */
export function toType(handle: number, text: string, append = false): string {
  const node = nodeOf(handle)
  if (!node) return 'gone'
  if (node instanceof HTMLInputElement && SET_BY_SCRIPT.has(node.type)) {
    node.focus()
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set
    set?.call(node, text)
    tellChoice(node)
    return 'set'
  }
  if (node instanceof HTMLInputElement || node instanceof HTMLTextAreaElement) {
    node.focus()
    if (append) goToEnd(node)
    else node.select()
  } else if (node instanceof HTMLElement) {
    node.focus()
    getSelection()?.selectAllChildren(node)
    if (append) getSelection()?.collapseToEnd()
  }
  return 'keys'
}

function goToEnd(field: HTMLInputElement | HTMLTextAreaElement): void {
  try {
    field.setSelectionRange(field.value.length, field.value.length)
  } catch {
    // number and e-mail fields have no caret to be set; typing goes on at their end anyway
  }
}

interface Choice {
  state: 'there' | 'key' | 'set' | 'missing'
  key: string
  options: string[]
}

/**
 * Prepare a native list so that one real key press chooses the option: the neighbour of the
 * option is selected silently and the key that leads from there to the option is returned.
 */
export function toChoose(handle: number, wanted: string): Choice {
  const list = nodeOf(handle)
  if (!(list instanceof HTMLSelectElement)) return { state: 'missing', key: '', options: [] }
  const options = [...list.options]
  const texts = options.map(optionText)
  if (list.multiple) return chooseSeveral(list, texts, wanted.split('\n'))
  let place = texts.indexOf(wanted)
  if (place < 0) place = options.findIndex((option) => option.value === wanted)
  if (place < 0 || options[place]?.disabled) return { state: 'missing', key: '', options: texts }
  list.focus()
  if (list.selectedIndex === place) return { state: 'there', key: '', options: texts }
  const usable = (index: number) =>
    options[index] && !options[index]!.disabled && !options[index]!.closest('optgroup[disabled]')
  let before = place - 1
  while (before >= 0 && !usable(before)) before -= 1
  let after = place + 1
  while (after < options.length && !usable(after)) after += 1
  if (before < 0 && after >= options.length) {
    options[place]!.selected = true
    tellChoice(list)
    return { state: 'set', key: '', options: texts }
  }
  list.selectedIndex = before >= 0 ? before : after
  const waits: Waits = { place, told: false }
  ;(list as Choosing)[WAITS] = waits
  list.addEventListener('change', () => (waits.told = true), { once: true, capture: true })
  return {
    state: 'key',
    key: before >= 0 ? 'ArrowDown' : 'ArrowUp',
    options: texts,
  }
}

interface Waits {
  place: number
  told: boolean
}
const WAITS = Symbol.for('the choice that waits for its key')
type Choosing = HTMLSelectElement & { [WAITS]?: Waits }

/**
 * After the key of `toChoose`: whether the option is chosen. Where the page kept the key for itself
 * it is chosen without; a list that was changed and then set back by its page is left alone.
 */
export function chose(handle: number): boolean {
  const list = onceOf(handle) as Choosing | null
  const waits = list?.[WAITS]
  if (!list || !waits) return true
  delete list[WAITS]
  if (waits.told || list.selectedIndex === waits.place) return true
  if (!list.isConnected || !list.options[waits.place]) return false
  list.selectedIndex = waits.place
  tellChoice(list)
  return true
}

let choosing = false
/** Whether a change is told of right now that a person made through Lantern's own list. */
export const isChoosing = (): boolean => choosing

function tellChoice(list: Element): void {
  choosing = true
  list.dispatchEvent(new Event('input', { bubbles: true }))
  list.dispatchEvent(new Event('change', { bubbles: true }))
  choosing = false
}

/** In a list that takes several, exactly the wanted ones are chosen. */
function chooseSeveral(list: HTMLSelectElement, texts: string[], wanted: string[]): Choice {
  const places = wanted.filter(Boolean).map((text) => texts.indexOf(tidy(text)))
  if (places.some((place) => place < 0)) return { state: 'missing', key: '', options: texts }
  ;[...list.options].forEach((option, place) => (option.selected = places.includes(place)))
  tellChoice(list)
  return { state: 'set', key: '', options: texts }
}

/** The native list that a node belongs to and what it offers; null when there is none to open. */
export function listOf(hit: Element | null): { node: Element; shown: object } | null {
  const list = hit instanceof HTMLOptionElement ? hit.closest('select') : hit
  if (!(list instanceof HTMLSelectElement) || list.multiple || list.size > 1 || !enabled(list)) return null
  const { x, y, width, height } = list.getBoundingClientRect()
  const shown = {
    handle: handleOf(list),
    box: { x, y, width, height },
    options: [...list.options].map((option) => ({ text: optionText(option), disabled: option.disabled })),
    selected: list.selectedIndex,
  }
  return { node: list, shown }
}
