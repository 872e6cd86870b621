/** Where on the page secrets show: pictures are blurred there. */
import type { Box } from './facts'
import { isSecret, isTextual } from './fields'
import { rootOf, select, unsureHosts } from './nodes'

const MOST = 400
/** Attributes of which the browser shows something by itself. */
const SHOWN = ['value', 'placeholder', 'alt', 'label', 'summary']

type Shows = (text: string | null | undefined) => boolean

/**
 * The boxes of filled fields of secrets, and of whatever shows one of the values: in texts, also
 * split over elements and in shadow roots, in fields, buttons, options and placeholders, and made
 * by styles. Fields that the browser fills with dots only when `dots` are wanted as well.
 *
 * Also, where there are values, the nodes that may hold a closed root: whoever is told has to look.
 */
export function hiding(values: string[], dots: boolean): [Box[], number[]] {
  const found = boxes(values, dots)
  return [found, values.length ? unsureHosts() : []]
}

function boxes(values: string[], dots: boolean): Box[] {
  const found: Box[] = []
  const add = ({ x, y, width, height }: DOMRect) => {
    if (width > 0 && height > 0 && found.length < MOST) found.push({ x, y, width, height })
  }
  const wanted = values.map(plain).filter((one) => one)
  const shows: Shows = (text) => !!text && wanted.some((value) => plain(text).includes(value))
  for (const node of select('input,textarea,select,option,button,img,area,optgroup,[contenteditable]'))
    if (showsByItself(node, shows, dots)) add((node.closest('select') ?? node).getBoundingClientRect())
  if (!wanted.length) return found
  for (const box of inTexts(wanted)) add(box)
  if (styled(shows))
    for (const node of select('*'))
      if (shows(made(node, '::before')) || shows(made(node, '::after'))) add(node.getBoundingClientRect())
  return found
}

/** A text as it is compared: what it looks like is told neither by its case nor by its spaces. */
const plain = (text: string) => text.replace(/\s+/g, '').toLowerCase()

function showsByItself(node: Element, shows: Shows, dots: boolean): boolean {
  const { value = '', type = '' } = node as HTMLInputElement
  if (isTextual(node) && value && (dots || type !== 'password') && (isSecret(node) || shows(value)))
    return true
  if (type === 'password') return shows(node.getAttribute('placeholder'))
  return shows(value) || SHOWN.some((name) => shows(node.getAttribute(name)))
}

/** A text and the nodes that it is made of, each with where it begins. */
interface Letters {
  text: string
  nodes: Text[]
  starts: number[]
}

/** Where the values stand in the texts of the page, whatever elements they are split over. */
function inTexts(wanted: string[]): DOMRect[] {
  const found: DOMRect[] = []
  const letters = gathered(document)
  for (const value of wanted)
    for (let at = letters.text.indexOf(value); at >= 0; at = letters.text.indexOf(value, at + 1))
      found.push(...rects(letters, at, at + value.length))
  return found
}

/** All text of a document, shadow roots where they stand, without spaces and in lower case. */
function gathered(root: Document | ShadowRoot): Letters {
  const all: Letters = { text: '', nodes: [], starts: [] }
  const parts: string[] = []
  let length = 0
  const walk = (from: Node) => {
    for (let node = from.firstChild; node; node = node.nextSibling) {
      if (node instanceof Text) {
        const text = plain(node.data)
        if (!text) continue
        all.nodes.push(node)
        all.starts.push(length)
        parts.push(text)
        length += text.length
      } else if (node instanceof Element && !node.matches('script,style,noscript,template')) {
        const shadow = rootOf(node)
        if (shadow) walk(shadow)
        walk(node)
      }
    }
  }
  walk(root)
  all.text = parts.join('')
  return all
}

/** The boxes of all texts that have a part in some of the gathered text. */
function rects({ nodes, starts }: Letters, from: number, to: number): DOMRect[] {
  const found: DOMRect[] = []
  for (let place = lastUpTo(starts, from); place < nodes.length && starts[place]! < to; place += 1) {
    const range = document.createRange()
    range.selectNodeContents(nodes[place]!)
    found.push(...range.getClientRects())
  }
  return found
}

function lastUpTo(starts: number[], at: number): number {
  let [low, high] = [0, starts.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (starts[middle]! <= at) low = middle
    else high = middle - 1
  }
  return low
}

const made = (node: Element, part: string) => {
  const { content } = getComputedStyle(node, part)
  return content === 'none' || content === 'normal' ? '' : content
}

/** Whether styles may make something of it: by their rules, or from attributes. */
function styled(shows: Shows): boolean {
  for (const sheet of [...document.styleSheets, ...document.adoptedStyleSheets]) {
    try {
      for (const rule of sheet.cssRules) {
        const content = rule.cssText.includes('content:')
        if (content && (shows(rule.cssText) || /attr\(|var\(/.test(rule.cssText))) return true
      }
    } catch {
      return true // styles of another origin can not be read: whatever they make is looked at
    }
  }
  return false
}
