/** What the document shows, as lines of text: what its sentences said, and what its fields hold. */
import { visible } from './facts'
import { labelOf } from './labels'
import { roots, select } from './nodes'
import { tidy } from './texts'

export interface Shown {
  title: string
  address: string
  lines: string[]
}

const MOST = 1500
const MOST_FIELDS = 250
const LONGEST = 160
/** Nodes from which on a page is too large to be read out before each act. */
const LARGE = 20_000
const HOLDING =
  'input:not([type=hidden],[type=button],[type=submit],[type=reset],[type=image],[type=file]),select,textarea,' +
  '[aria-checked],[aria-pressed],[aria-selected=true]:not([role=option]),' +
  '[aria-multiselectable=true] [aria-selected=true],[aria-expanded=true],[aria-valuenow]'

function holds(node: Element): string {
  if (node instanceof HTMLInputElement) {
    if (node.type === 'checkbox' || node.type === 'radio') return node.checked ? 'ticked' : 'not ticked'
    return node.type === 'password' ? (node.value ? 'filled' : '') : node.value
  }
  if (node instanceof HTMLSelectElement)
    return [...node.selectedOptions].map((option) => tidy(option.textContent)).join(', ')
  if (node instanceof HTMLTextAreaElement) return node.value
  const states = ['checked', 'pressed', 'selected', 'expanded', 'valuenow']
  return states
    .filter((state) => node.hasAttribute(`aria-${state}`))
    .map((state) => `${state} ${node.getAttribute(`aria-${state}`)}`)
    .join(' ')
}

function called(node: Element): string {
  const own = node.getAttribute('aria-label') || labelOf(node) || node.getAttribute('placeholder')
  return tidy(own || node.getAttribute('name') || node.textContent).slice(0, 60)
}

function* texts(): Generator<string> {
  yield document.body?.innerText ?? ''
  for (const root of roots())
    for (const child of root.children) if (child instanceof HTMLElement) yield child.innerText
}

export function shown(): Shown {
  const lines: string[] = []
  if (document.getElementsByTagName('*').length < LARGE) {
    for (const text of texts())
      for (const line of text.split('\n', MOST)) {
        const told = tidy(line).slice(0, LONGEST)
        if (told && lines.length < MOST) lines.push(told)
      }
    let fields = 0
    for (const node of select(HOLDING)) {
      const ticked = node instanceof HTMLInputElement && ['checkbox', 'radio'].includes(node.type)
      if (!ticked && !visible(node)) continue
      if ((fields += 1) > MOST_FIELDS) break
      lines.push(`${called(node)} = ${tidy(holds(node)).slice(0, 80)}`)
    }
  }
  return { title: document.title, address: location.href, lines }
}

let inField: () => boolean = () => false
let send: (event: object) => void = () => undefined
let told = ''
let begun = ''
/** The lines that the page showed when the act that is going on began. */
export const shownAtBegin = (): string => begun
/** Whether what changes now came of the last act: nobody has gone on to anything else yet. */
let resting = false
let typed = false
let scrolled = false
let timer: ReturnType<typeof setTimeout> | undefined
const REST = 300
/** Milliseconds without a change after which a page counts as come to rest. */

type When = 'rest' | 'end' | 'begin'

/** What is shown at `rest`, at the `end` of what came of an act, and when the next one `begin`s. */
function tell(when: When): void {
  const now = shown()
  const text = JSON.stringify(now)
  if (text === told && when === 'rest') return
  told = text
  if (when !== 'rest') begun = JSON.stringify(now.lines)
  send({ type: 'shows', when, ...now })
}

/** An act is over: what the page shows from now on, until the mouse moves on, came of it. */
export function showsAtRest(): void {
  if (typed || scrolled) return
  resting = true
  tell('rest')
}

/** The next act begins: what the page shows now is what all before it has led to. */
export function showsBefore(): void {
  clearTimeout(timer)
  tell(scrolled ? 'begin' : 'end')
  resting = typed = scrolled = false
}

/** The page has changed; what it comes to is told when it rests. */
export function showsChange(): void {
  if (!resting) return
  clearTimeout(timer)
  timer = setTimeout(() => resting && tell('rest'), REST)
}

/** Typing begins: what the letters lead to is that of the typing, not of what was done before. */
function onKey(event: KeyboardEvent): void {
  const letter = event.key.length === 1 && !event.ctrlKey && !event.altKey && !event.metaKey
  if (!event.isTrusted || !letter || typed) return
  if (!inField()) showsBefore() // a press that only gave the field the focus belongs to the typing
  typed = true
}

/** Scrolling is no act, but shows other things: what came of the act before ends with it. */
function onWheel(event: WheelEvent): void {
  if (!event.isTrusted || scrolled) return
  tell('end')
  scrolled = true
  resting = false
}

/** Begin: `sender` takes what is told; `field` says whether the act going on is on a field. */
export function startShowing(sender: (event: object) => void, field: () => boolean): void {
  send = sender
  inField = field
  const passive = { capture: true, passive: true }
  addEventListener('input', ({ isTrusted }) => isTrusted && (typed = !(resting = false)), passive)
  addEventListener('mousemove', ({ isTrusted }) => isTrusted && (resting = false), passive)
  addEventListener('keydown', onKey, passive)
  addEventListener('wheel', onWheel, passive)
}
