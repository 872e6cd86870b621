/** What labels a node: a label, the term before it, the words beside it. */
import { parentOf } from './nodes'
import { tidy } from './texts'

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

/** Whether a node is a list of a page's own, which shows its value and is called by its label. */
export const isListLike = (node: Element) => node.matches(LISTS) && !(node instanceof HTMLSelectElement)

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
