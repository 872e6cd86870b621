/** Reporting what a person does on the page while recording. Nothing is decided here. */
import { describe, meant } from './describing'
import { tidy } from './facts'
import { closest, handleOf } from './nodes'
import { listOf } from './reading'

type Send = (event: object) => void

let pressable = '*'
let send: Send = () => undefined
let typing: Element | null = null

function target(event: Event): Element | null {
  const node = event.composedPath()[0]
  return node instanceof Element ? node : null
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

function onPress(event: MouseEvent): void {
  const hit = target(event)
  if (!hit || !event.isTrusted) return
  const label = closest(hit, 'label') as HTMLLabelElement | null
  const control = label?.control
  const onLabel = !!control && control !== hit && !control.contains(hit) && !closest(hit, 'button,a[href]')
  const found = meant(hit, pressable)
  typing = null
  report(event.type, found.node, {
    detail: event.detail,
    onLabel,
    pressable: found.pressable,
  })
}

function isTextual(node: Element): boolean {
  if (node instanceof HTMLInputElement)
    return !['checkbox', 'radio', 'file', 'button', 'submit', 'reset', 'image'].includes(node.type)
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
    report('change', node, { value: tidy(node.selectedOptions[0]?.label) })
  } else if (node instanceof HTMLInputElement && (node.type === 'checkbox' || node.type === 'radio')) {
    typing = null
    report('change', node, { ticked: node.checked })
  }
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
  addEventListener('keydown', onKey, { capture: true })
}
