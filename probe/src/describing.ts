/** Describing one node together with its rivals: the nodes that share an identifying fact. */
import { attributesOf, besideBy, factsOf, labelOf, nameOf, newPass, roleOf, textOf } from './facts'
import type { Facts } from './facts'
import { closest, handleOf, nodeAt, select } from './nodes'
import { columnOf } from './rows'

export interface Description {
  facts: Facts
  rivals: Facts[]
}

const CAP = 2000
const NATIVE: Record<string, string> = {
  button: 'button,input[type=button],input[type=submit],input[type=reset],input[type=image],summary,[role]',
  link: 'a[href],area[href],[role]',
}

/** Only nodes of the same tag or role can be of the same kind. */
function sameKind(facts: Facts): string {
  return NATIVE[facts.role] ?? (facts.role ? `${facts.tag},[role]` : facts.tag === 'input' ? 'input' : '*')
}

/** The facts of a node and of its rivals, in document order. */
export function describe(node: Element): Description {
  const facts = factsOf(node)
  for (const side of ['right of', 'below'] as const) {
    const beside = besideBy(node, side)
    if (beside) facts.attributes[side] = beside
  }
  const identifying = [
    'data-testid',
    'id',
    'name',
    'placeholder',
    'title',
    'alt',
    'href',
    'src',
    'aria-label',
  ].filter((name) => facts.attributes[name])
  const rivals: Facts[] = []
  let order = 0
  const word = facts.name.split(' ')[0] ?? ''
  const pass = newPass()
  const plain = !facts.name && !facts.text && !facts.label && identifying.length === 0
  for (const other of select(sameKind(facts))) {
    order += 1
    if (other === node) {
      facts.order = order
      continue
    }
    if (rivals.length < CAP && (plain || isRival(other, facts, identifying, word)))
      rivals.push(factsOf(other, order, pass))
  }
  return { facts, rivals }
}

function isRival(node: Element, facts: Facts, identifying: string[], word: string): boolean {
  for (const name of identifying) {
    const value = name === 'data-testid' ? attributesOf(node)[name] : node.getAttribute(name)
    if (value && value.trim() === facts.attributes[name]) return true
  }
  if (facts.column && columnOf(node) === facts.column) return true
  if (facts.label && labelOf(node) === facts.label) return true
  if (facts.text && node.textContent?.includes(facts.text.slice(0, 12)) && textOf(node) === facts.text)
    return true
  if (!facts.name) return false
  const cheap = `${node.textContent ?? ''}${node.getAttribute('aria-label') ?? ''}${node.getAttribute('title') ?? ''}${node.getAttribute('alt') ?? ''}${node.getAttribute('placeholder') ?? ''}`
  if (
    !cheap.includes(word) &&
    !node.hasAttribute('aria-labelledby') &&
    !(node as HTMLInputElement).labels?.length &&
    !node.querySelector('[alt],[aria-label],[title]')
  )
    return false
  return nameOf(node, roleOf(node)) === facts.name
}

/** What a point means: the closest thing that can be pressed, else the innermost node there. */
export function meant(node: Element, pressable: string): { node: Element; pressable: boolean } {
  const found = closest(node, pressable)
  if (found) return { node: found, pressable: true }
  const svg = closest(node, 'svg')
  if (svg) return { node: svg, pressable: styled(svg) }
  return { node, pressable: styled(node) }
}

function styled(node: Element): boolean {
  return (
    node.hasAttribute('onclick') ||
    node.hasAttribute('tabindex') ||
    getComputedStyle(node).cursor === 'pointer'
  )
}

/** A short description of what is at a point, for the light that follows the pointer. */
export function at(x: number, y: number, pressable: string): object | null {
  const hit = nodeAt(x, y)
  if (!hit) return null
  const { node } = meant(hit, pressable)
  return { ...factsOf(node), handle: handleOf(node) }
}

export function describeAt(x: number, y: number, pressable: string): Description | null {
  const hit = nodeAt(x, y)
  return hit ? describe(meant(hit, pressable).node) : null
}
