/** Describing one node together with its rivals: the nodes that share an identifying fact. */
import { besideBy } from './around'
import { attributesOf, IDENTIFYING } from './attributes'
import { factsOf, nameOf, newPass, ownWords, roleOf, sparse, textOf } from './facts'
import type { Facts, Sparse } from './facts'
import { labelOf } from './labels'
import { closest, handleOf, nodeAt, parentOf, select } from './nodes'
import { columnOf } from './rows'
import { tidy } from './texts'

export interface Description {
  facts: Facts
  rivals: Sparse[]
}

const CAP = 2000
const PRESSED = 'button,summary,input,[role]'
const TYPED = 'input,textarea,[contenteditable],[role]'
const LISTED = 'select,input,[role],[aria-haspopup]'
/** What can be of the kind of a role by its markup alone, so that a rival may lack the role. */
const NATIVE: Record<string, string> = {
  button: PRESSED,
  menuitem: PRESSED,
  tab: PRESSED,
  switch: PRESSED,
  link: 'a[href],area[href],[role]',
  combobox: LISTED,
  listbox: LISTED,
  textbox: TYPED,
  searchbox: TYPED,
  spinbutton: TYPED,
  checkbox: 'input,[role]',
  radio: 'input,[role]',
  slider: 'input,[role]',
  img: 'img,svg,canvas,[role]',
  heading: 'h1,h2,h3,h4,h5,h6,[role]',
}

/** Only nodes of the same tag or role can be of the same kind. */
function sameKind(facts: Facts): string {
  if (facts.attributes['aria-haspopup'] === 'listbox') return LISTED
  return NATIVE[facts.role] ?? (facts.role ? `${facts.tag},[role]` : facts.tag === 'input' ? 'input' : '*')
}

const shape = (text: string) => text.replace(/\d+/g, '#')

/**
 * The facts of a node and of its rivals, in document order. What is `plain`, having no words or
 * only such as change, has all nodes of its kind for rivals.
 */
export function describe(node: Element, wordless = false): Description {
  const facts = factsOf(node)
  if (node === document.body) return { facts, rivals: [] } // there is one page: nothing is like it
  for (const side of ['right of', 'below'] as const) {
    const beside = besideBy(node, side)
    if (beside) facts.attributes[side] = beside
  }
  const identifying = IDENTIFYING.filter((name) => facts.attributes[name])
  const rivals: Sparse[] = []
  let order = 0
  const word = facts.name.split(' ')[0] ?? ''
  const pass = newPass()
  const plain = wordless || (!facts.name && !facts.text && !facts.label && identifying.length === 0)
  for (const other of select(sameKind(facts))) {
    order += 1
    if (other === node) {
      facts.order = order
      continue
    }
    if (rivals.length < CAP && (plain || isRival(other, facts, identifying, word)))
      rivals.push(sparse(other, order, pass))
  }
  return { facts, rivals }
}

/** Whether a text can have the shape of another; to read a whole page is dear. */
function mayRead(text: string | null, wanted: string): boolean {
  const start = /^\D{0,12}/.exec(wanted)![0]
  return !!text && (start.trim() ? text.includes(start.trim()) : /\d/.test(text))
}

const SAME_AS = new Set('data-testid href src data-date data-value data-key data-id'.split(' '))

function isRival(node: Element, facts: Facts, identifying: string[], word: string): boolean {
  for (const name of identifying) {
    const raw = SAME_AS.has(name) ? attributesOf(node)[name] : node.getAttribute(name)
    if (raw && raw.trim() === facts.attributes[name]) return true
  }
  if (facts.column && columnOf(node) === facts.column) return true
  if (facts.label && labelOf(node) === facts.label) return true
  // Clues leave numbers open: what differs in its numbers alone is a rival as well.
  if (facts.text && mayRead(node.textContent, facts.text) && shape(textOf(node)) === shape(facts.text))
    return true
  if (facts.own && shape(ownWords(node)) === shape(facts.own)) return true
  if (!facts.name) return false
  const cheap = `${node.textContent ?? ''}${node.getAttribute('aria-label') ?? ''}${node.getAttribute('title') ?? ''}${node.getAttribute('alt') ?? ''}${node.getAttribute('placeholder') ?? ''}`
  if (
    !cheap.includes(word.replace(/\d.*/, '')) &&
    !node.hasAttribute('aria-labelledby') &&
    !(node as HTMLInputElement).labels?.length &&
    !node.querySelector('[alt],[aria-label],[title]')
  )
    return false
  return shape(nameOf(node, roleOf(node))) === shape(facts.name)
}

/** What a point means: the closest thing that can be pressed, else the innermost node there. */
export function meant(node: Element, pressable: string): { node: Element; pressable: boolean } {
  const found = closest(node, pressable)
  if (found) {
    // What can not be written in is part of the list that shows its value there.
    const fixed = found.matches('[role=textbox][aria-readonly=true],input[readonly]')
    const list = fixed ? closest(parentOf(found) ?? found, '[role=combobox]') : null
    return { node: list ?? found, pressable: true }
  }
  const svg = closest(node, 'svg')
  if (svg) return { node: svg, pressable: styled(svg) }
  return { node: telling(node), pressable: styled(node) }
}

const HIGH = 4
const IDENTITY = '[title],[aria-label],[data-date],[data-value],[data-key],[data-id],[data-testid]'
const PARTS = 'td,th,li,[role=gridcell],[role=cell],[role=option],[role=listitem]'

/** The node that says which thing it is: a part without words, or with the same, means its whole. */
function telling(node: Element): Element {
  const text = tidy(node.textContent)
  if (node.matches(IDENTITY)) return node
  let best = node
  for (let at = parentOf(node), up = 0; at && up < HIGH; at = parentOf(at), up += 1) {
    if (at.matches('body,main,form,table,tr,ul,ol')) break
    if (text && tidy(at.textContent) !== text) break
    if (at.matches(IDENTITY) || at.matches(PARTS)) best = at
    if (at.matches(IDENTITY)) break
  }
  return best
}

function styled(node: Element): boolean {
  return (
    node.hasAttribute('onclick') ||
    node.hasAttribute('tabindex') ||
    getComputedStyle(node).cursor === 'pointer'
  )
}

const WHOLES =
  'td,th,li,tr,table,ul,ol,dl,section,article,fieldset,form,dialog,main,nav,aside,header,footer,body,' +
  '[role=cell],[role=gridcell],[role=row],[role=table],[role=grid],[role=list],[role=listbox],[role=menu],' +
  '[role=dialog],[role=alertdialog],[role=alert],[role=status],[role=tree],[role=toolbar],[role=tablist],[role=region]'

/** What a node is part of, `up` steps wider: the cell, its row, the table, the section, the page. */
function widened(node: Element, up: number): Element {
  let at = node
  for (let next = parentOf(at); next && up > 0; next = parentOf(next)) {
    const [inner, outer] = [at.getBoundingClientRect(), next.getBoundingClientRect()]
    const wider = outer.width - inner.width > 4 || outer.height - inner.height > 4
    if (!next.matches(WHOLES) && !(wider && !next.matches('html'))) continue
    if (!wider && !next.matches('tr,table,[role=row],[role=table],[role=grid]')) continue
    at = next
    up -= 1
  }
  return at
}

/** A short description of what is at a point, for the light that follows the pointer. */
export function at(x: number, y: number, pressable: string, up = 0): object | null {
  const hit = nodeAt(x, y)
  if (!hit) return null
  const node = widened(meant(hit, pressable).node, up)
  return { ...factsOf(node), handle: handleOf(node) }
}

export function describeAt(x: number, y: number, pressable: string, up = 0): Description | null {
  const hit = nodeAt(x, y)
  return hit ? describe(widened(meant(hit, pressable).node, up)) : null
}
