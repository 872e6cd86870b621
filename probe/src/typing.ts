/** Reporting what a person types: into fields by their values, into editors letter by letter. */
import { endActOn, noteLeft } from './aftermath'
import { describe } from './describing'
import { isSecret, isTextual } from './fields'
import { later } from './later'
import { goesOn, meanwhile } from './meanwhile'
import { handleOf, parentOf, targetOf } from './nodes'
import { describedAtPress } from './presses'
import { isChoosing, read } from './reading'
import { tidy } from './texts'

let report: (event: object) => void = () => undefined
let typing: Element | null = null

/** Something else was done: what is typed next is another sentence. */
export function stopTyping(): void {
  typing = null
}

/** The whole that is edited when a person types into `node`, where it keeps its text elsewhere. */
export function editorOf(node: Element): Element | null {
  if ((node as HTMLElement).isContentEditable) {
    let host = node
    for (let at: Element | null = node; at; at = at.parentElement)
      if ((at as HTMLElement).isContentEditable) host = at
    return host
  }
  if (!isTextual(node) || !isUnseen(node)) return null
  // A field that nobody sees only catches the keys for what is drawn around it.
  let whole: Element | null = null
  for (let at = parentOf(node); at && at !== document.body; at = parentOf(at)) {
    const { width, height } = at.getBoundingClientRect()
    if (width <= 60 || height <= 30) continue
    const known = whole?.getBoundingClientRect()
    if (known && (width - known.width > 4 || height - known.height > 4)) break
    whole = at
  }
  return whole
}

function isUnseen(node: Element): boolean {
  const { width, height } = node.getBoundingClientRect()
  if (node instanceof HTMLInputElement) return false
  return width < 12 || height < 6 || getComputedStyle(node).opacity === '0'
}

function onInput(event: Event): void {
  const node = targetOf(event)
  // What script says was typed was not: pickers fill their fields and tell of it that way.
  if (!(event.isTrusted || isChoosing()) || !node || !isTextual(node) || editorOf(node)) return
  const more = { value: (node as HTMLInputElement).value, secret: isSecret(node) }
  if (typing === node) {
    goesOn()
    report({ type: 'input', facts: { handle: handleOf(node), tag: 'input' }, ...more })
    return
  }
  typing = node
  endActOn(node)
  report({ type: 'input', ...describe(node), meanwhile: meanwhile(node), ...more })
}

/** What is typed into an editor, before the page changes or refuses it. */
function onBeforeInput(event: InputEvent): void {
  const node = targetOf(event)
  const editor = node && editorOf(node)
  if (!editor || !event.isTrusted || event.isComposing) return
  const pasted = event.inputType === 'insertFromPaste' || event.inputType === 'insertFromDrop'
  const text = pasted ? (event.dataTransfer?.getData('text/plain') ?? event.data) : event.data
  if (!event.inputType.startsWith('insert') || !text) return
  write(editor, text)
}

function onComposed(event: CompositionEvent): void {
  const node = targetOf(event)
  const editor = node && editorOf(node)
  if (editor && event.isTrusted && event.data) write(editor, event.data)
}

function write(editor: Element, value: string): void {
  const known = typing === editor
  const empty = tidy(editor.textContent) === ''
  const described = known ? { facts: { handle: handleOf(editor), tag: 'input' } } : describe(editor, true)
  typing = editor
  goesOn()
  report({ type: 'write', ...described, value, empty: !known && empty, editor: true })
}

function onChange(event: Event): void {
  const node = targetOf(event)
  if (!event.isTrusted && !isChoosing()) return
  if (node instanceof HTMLSelectElement) {
    typing = null
    const value = [...node.selectedOptions].map((one) => tidy(one.label)).join('\n')
    report({ type: 'change', ...describe(node), meanwhile: meanwhile(node), value })
    return
  }
  if (node && isTextual(node)) noteLeft()
  if (!(node instanceof HTMLInputElement)) return
  // What it was called before it was pressed: names tell the state that things are in.
  const described = describedAtPress(node) ?? describe(node)
  if (node.type === 'checkbox' || node.type === 'radio') {
    typing = null
    report({ type: 'change', ...described, meanwhile: meanwhile(node), ticked: node.checked })
  } else if (node.type === 'file') {
    const value = [...(node.files ?? [])].map((file) => file.name).join('\n')
    report({ type: 'files', ...described, meanwhile: meanwhile(node), value })
  } else if (node.type === 'range') {
    report({ type: 'slide', ...described, meanwhile: meanwhile(node), value: node.value })
  }
}

const settings = new WeakMap<Element, string>()
const SLIDER = '[role=slider]'

/** A slider that the page draws itself tells its value only by what it says of itself. */
function onSlider(event: Event): void {
  const node = sliderOf(event)
  if (!node || !event.isTrusted) return
  const before = settings.get(node)
  later(0, () => {
    const value = read(handleOf(node), 'value') ?? ''
    if (value !== before) report({ type: 'slide', ...describe(node), meanwhile: meanwhile(node), value })
    settings.set(node, value)
  })
}

function onSliderBegin(event: Event): void {
  const node = sliderOf(event)
  if (node && !settings.has(node)) settings.set(node, read(handleOf(node), 'value') ?? '')
}

const NEAR = 3
const MOST = 6
let around: [Element, string][] = []

/** Sliders near what is pressed, with their values: pages set them by presses beside them. */
function onAroundBegin(event: Event): void {
  around = []
  let at = targetOf(event)
  for (let up = 0; at && up < NEAR && !around.length; at = parentOf(at), up += 1) {
    const found = at.querySelectorAll('input[type=range],[role=slider]')
    if (found.length <= MOST) around = [...found].map((one) => [one, valueOf(one)])
  }
}

const valueOf = (node: Element) => read(handleOf(node), 'value') ?? ''

function onAround(event: Event): void {
  const before = around
  if (!before.length || !event.isTrusted) return
  later(30, () => {
    for (const [node, was] of before)
      if (node.isConnected && valueOf(node) !== was && settings.get(node) !== valueOf(node)) {
        settings.set(node, valueOf(node))
        report({ type: 'slide', ...describe(node), meanwhile: [], value: valueOf(node), pressed: true })
      }
  })
}

function sliderOf(event: Event): Element | null {
  for (let at = targetOf(event); at; at = parentOf(at))
    if (at.matches(SLIDER)) return at instanceof HTMLInputElement ? null : at
  return null
}

/** A change of a field inside a shadow root does not leave it. */
export function listenInside(root: ShadowRoot): void {
  root.addEventListener('change', onChange, { capture: true })
}

/** A field can be turned into plain text before the first letter: it is looked at when entered. */
function onFocus(event: Event): void {
  const node = targetOf(event)
  if (node) isSecret(node)
}

/** Begin: `sender` takes the events. */
export function startTyping(sender: (event: object) => void): void {
  report = sender
  const capture = { capture: true }
  addEventListener('focusin', onFocus, capture)
  addEventListener('input', onInput, capture)
  addEventListener('beforeinput', onBeforeInput as (event: Event) => void, capture)
  addEventListener('compositionend', onComposed, capture)
  addEventListener('change', onChange, capture)
  for (const type of ['pointerdown', 'keydown']) addEventListener(type, onSliderBegin, capture)
  for (const type of ['pointerup', 'keyup']) addEventListener(type, onSlider)
  addEventListener('pointerdown', onAroundBegin, capture)
  addEventListener('pointerup', onAround)
}
