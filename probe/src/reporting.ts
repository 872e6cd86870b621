/** Reporting what a person does on the page while recording. Nothing is decided here. */
import { describe, meant } from './describing'
import { tidy } from './facts'
import { stamp } from './lookup'
import { closest, handleOf, nodesAt } from './nodes'
import { listOf, read } from './reading'
import { neededHover, noteHover, notePress } from './revealing'

type Send = (event: object) => void

let pressable = '*'
let send: Send = () => undefined
let typing: Element | null = null

function target(event: Event): Element | null {
  const node = event.composedPath()[0]
  return node instanceof Element ? node : null
}

/** Shadow roots whose changes do not leave them are listened to where they happen. */
const listened = new WeakSet<Node>()
function listenInside(event: Event): void {
  for (const node of event.composedPath()) {
    if (!(node instanceof ShadowRoot) || listened.has(node)) continue
    listened.add(node)
    node.addEventListener('change', onChange, { capture: true })
  }
}

function report(type: string, node: Element, more: object = {}): void {
  send({
    type,
    page: document.title,
    address: location.href,
    ...describe(node),
    ...more,
  })
}

const LISTS = '[role=combobox],[aria-haspopup=listbox]'
const EFFECT = 700
/** Milliseconds in which a press has to have some effect to count. */

let opener: Element | null = null
let presses = 0

/** The list of the page's own that an option belongs to: named by it, in use, or opened last. */
function listWith(option: Element): Element | null {
  const box = closest(option, '[role=listbox]')
  const root = option.getRootNode() as Document | ShadowRoot
  const named = box?.id
    ? root.querySelector(`[aria-controls="${CSS.escape(box.id)}"],[aria-owns="${CSS.escape(box.id)}"]`)
    : null
  const active = root.activeElement?.matches(LISTS) ? root.activeElement : null
  return named ?? active ?? (opener?.isConnected ? opener : null)
}

function onPress(event: MouseEvent): void {
  const hit = target(event)
  if (!hit || !event.isTrusted) return
  if (event.timeStamp === carriedAt) return // the same letting go, as a click
  const option = closest(hit, '[role=option]')
  const list = option && event.type === 'click' ? listWith(option) : null
  if (option && list) {
    typing = null
    report('option', list, { value: tidy(option.textContent) })
    return
  }
  const label = closest(hit, 'label') as HTMLLabelElement | null
  const control = label?.control
  const onLabel = !!control && control !== hit && !control.contains(hit) && !closest(hit, 'button,a[href]')
  const found = meant(hit, pressable)
  if (found.node.matches(LISTS)) opener = found.node
  typing = null
  presses += 1
  const hover = neededHover(found.node)
  report(event.type, found.node, {
    detail: event.detail,
    onLabel,
    pressable: found.pressable,
    press: presses,
    hover: hover && hover !== found.node ? describe(hover) : null,
  })
  if (event.type === 'click') watchEffect(presses)
}

/** Say so when nothing at all came of a press. */
function watchEffect(press: number): void {
  const before = state()
  setTimeout(() => {
    const after = state()
    if (before === after) send({ type: 'idle', page: document.title, address: location.href, press })
  }, EFFECT)
}

function state(): string {
  const active = document.activeElement
  return [
    stamp(),
    location.href,
    active && active !== document.body ? handleOf(active) : 0,
    scrollX,
    scrollY,
    document.hasFocus(),
  ].join(' ')
}

function isTextual(node: Element): boolean {
  if (node instanceof HTMLInputElement)
    return !['checkbox', 'radio', 'file', 'button', 'submit', 'reset', 'image', 'range'].includes(node.type)
  return node instanceof HTMLTextAreaElement || (node as HTMLElement).isContentEditable
}

const secrets = new WeakSet<Element>()

/** Whether a field takes a password, or did before the page showed it as plain text. */
function isSecret(node: Element): boolean {
  const asked = /password/.test(node.getAttribute('autocomplete') ?? '')
  if (asked || (node as HTMLInputElement).type === 'password') secrets.add(node)
  return secrets.has(node)
}

function onInput(event: Event): void {
  let node = target(event)
  if (!node || !isTextual(node)) return
  if ((node as HTMLElement).isContentEditable) node = closest(node, '[contenteditable]') ?? node
  const value = (node as HTMLInputElement).value ?? tidy(node.textContent)
  const more = {
    value,
    secret: isSecret(node),
  }
  if (typing === node) {
    send({
      type: 'input',
      page: document.title,
      address: location.href,
      facts: { handle: handleOf(node), tag: 'input' },
      ...more,
    })
    return
  }
  typing = node
  report('input', node, more)
}

function onChange(event: Event): void {
  const node = target(event)
  if (node instanceof HTMLSelectElement) {
    typing = null
    report('change', node, { value: [...node.selectedOptions].map((one) => tidy(one.label)).join('\n') })
    return
  }
  if (!(node instanceof HTMLInputElement)) return
  if (node.type === 'checkbox' || node.type === 'radio') {
    typing = null
    report('change', node, { ticked: node.checked })
  } else if (node.type === 'file') {
    report('files', node, { value: [...(node.files ?? [])].map((file) => file.name).join('\n') })
  } else if (node.type === 'range') {
    report('slide', node, { value: node.value })
  }
}

const settings = new WeakMap<Element, string>()

/** A slider that the page draws itself tells its value only by what it says of itself. */
function onSlider(event: Event): void {
  const node = closest(target(event) ?? document.body, '[role=slider]')
  if (!node || node instanceof HTMLInputElement || !event.isTrusted) return
  const before = settings.get(node)
  setTimeout(() => {
    const value = read(handleOf(node), 'value') ?? ''
    if (value !== before) report('slide', node, { value })
    settings.set(node, value)
  }, 0)
}

function onSliderBegin(event: Event): void {
  const node = closest(target(event) ?? document.body, '[role=slider]')
  if (node && !settings.has(node)) settings.set(node, read(handleOf(node), 'value') ?? '')
}

let dragged: ReturnType<typeof describe> | null = null

function onDragStart(event: DragEvent): void {
  const node = target(event)
  dragged = node && event.isTrusted ? describe(closest(node, '[draggable=true]') ?? node) : null
}

function onDrop(event: DragEvent): void {
  const node = target(event)
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
  const node = target(event)
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
  else carried = describe(meant(held.node, pressable).node)
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

const QUIET = new Set(['Shift', 'Control', 'Alt', 'Meta', 'CapsLock', 'Dead', 'Process', 'Unidentified'])

function onKey(event: KeyboardEvent): void {
  if (!event.isTrusted || event.isComposing || QUIET.has(event.key)) return
  const modified = event.ctrlKey || event.altKey || event.metaKey
  if (event.key.length === 1 && !modified) return
  const held = [
    event.ctrlKey && 'Control',
    event.altKey && 'Alt',
    event.metaKey && 'Meta',
    event.shiftKey && 'Shift',
  ].filter(Boolean)
  const node = target(event) ?? document.body
  if (
    ['Tab', 'Backspace', 'Delete', 'Home', 'End'].includes(event.key) ||
    event.key.startsWith('Arrow') ||
    event.key.startsWith('Page')
  )
    return
  report('key', node, { value: [...held, event.key].join('+') })
}

/** A native list opens as Lantern's own list: no picture of the page shows the browser's. */
function onMouseDown(event: MouseEvent): void {
  if (event.button !== 0 || !event.isTrusted) return
  const list = listOf(target(event))
  if (!list) return
  event.preventDefault()
  ;(list.node as HTMLElement).focus()
  send({ type: 'options', ...list.shown })
}

/** A field can be turned into plain text before the first letter: it is looked at when entered. */
function onFocus(event: Event): void {
  const node = target(event)
  if (node) isSecret(node)
}

function onOver(event: MouseEvent): void {
  const node = target(event)
  if (node && event.isTrusted) noteHover(node)
}

/** Start reporting: `selector` tells what a press means as a whole, `sender` takes the events. */
export function startReporting(selector: string, sender: Send): void {
  const first = pressable === '*'
  pressable = selector
  send = sender
  if (!first) return
  for (const type of ['click', 'dblclick', 'contextmenu'] as const)
    addEventListener(type, onPress, { capture: true })
  addEventListener('mousedown', onMouseDown, { capture: true })
  addEventListener('focusin', onFocus, { capture: true })
  addEventListener('input', onInput, { capture: true })
  addEventListener('change', onChange, { capture: true })
  for (const type of ['focusin', 'pointerdown', 'keydown'] as const)
    addEventListener(type, listenInside, { capture: true })
  addEventListener('keydown', onKey, { capture: true })
  addEventListener('mouseover', onOver, { capture: true })
  for (const type of ['mousedown', 'keydown'] as const) addEventListener(type, notePress, { capture: true })
  for (const type of ['pointerdown', 'keydown'] as const)
    addEventListener(type, onSliderBegin, { capture: true })
  for (const type of ['pointerup', 'keyup'] as const) addEventListener(type, onSlider)
  addEventListener('pointerdown', onHold, { capture: true })
  addEventListener('pointermove', onCarry, { capture: true })
  addEventListener('pointerup', onLetGo, { capture: true })
  addEventListener('dragstart', onDragStart)
  addEventListener('drop', onDrop, { capture: true })
}
