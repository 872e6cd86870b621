/** Reporting what a person does on the page while recording. Nothing is decided here. */
import { describe, meant } from './describing'
import { isEndOfCarrying, startDragging } from './dragging'
import { isSecret, isTextual } from './fields'
import { stamp } from './lookup'
import { goesOn, meanwhile, startWatching } from './meanwhile'
import { closest, handleOf, targetOf } from './nodes'
import { listOf, read } from './reading'
import { neededHover, noteHover, notePress } from './revealing'
import { tidy } from './texts'

type Send = (event: object) => void

let pressable = '*'
let send: Send = () => undefined
let typing: Element | null = null

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
    meanwhile: meanwhile(node),
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
  const hit = targetOf(event)
  if (!hit || !event.isTrusted) return
  if (isEndOfCarrying(event)) return
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

function onInput(event: Event): void {
  let node = targetOf(event)
  if (!node || !isTextual(node)) return
  if ((node as HTMLElement).isContentEditable) node = closest(node, '[contenteditable]') ?? node
  const value = (node as HTMLInputElement).value ?? tidy(node.textContent)
  const more = {
    value,
    secret: isSecret(node),
  }
  if (typing === node) {
    goesOn()
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
  const node = targetOf(event)
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
  const node = closest(targetOf(event) ?? document.body, '[role=slider]')
  if (!node || node instanceof HTMLInputElement || !event.isTrusted) return
  const before = settings.get(node)
  setTimeout(() => {
    const value = read(handleOf(node), 'value') ?? ''
    if (value !== before) report('slide', node, { value })
    settings.set(node, value)
  }, 0)
}

function onSliderBegin(event: Event): void {
  const node = closest(targetOf(event) ?? document.body, '[role=slider]')
  if (node && !settings.has(node)) settings.set(node, read(handleOf(node), 'value') ?? '')
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
  const node = targetOf(event) ?? document.body
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
  const list = listOf(targetOf(event))
  if (!list) return
  event.preventDefault()
  ;(list.node as HTMLElement).focus()
  send({ type: 'options', ...list.shown })
}

/** A field can be turned into plain text before the first letter: it is looked at when entered. */
function onFocus(event: Event): void {
  const node = targetOf(event)
  if (node) isSecret(node)
}

function onOver(event: MouseEvent): void {
  const node = targetOf(event)
  if (node && event.isTrusted) noteHover(node)
}

/** Start reporting: `selector` tells what a press means as a whole, `sender` takes the events. */
export function startReporting(selector: string, sender: Send): void {
  const first = pressable === '*'
  pressable = selector
  send = sender
  if (!first) return
  startWatching()
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
  startDragging(
    () => pressable,
    (event) => send(event),
  )
}
