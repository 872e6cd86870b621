/** The part of the page that a node is in: a dialog, a group, a form with a name. */
import { parentOf } from './nodes'
import { tidy } from './texts'

/** A part of the page: its name, and whether it is a group of few things rather than the whole page. */
export interface Section {
  name: string
  grouped: boolean
}

/** A part with the nodes that name it. */
interface Part extends Section {
  names: Element[]
}

/** What has been found out, by parent and by part, for a pass in which the page does not change. */
export interface Sections {
  around: Map<Element | null, Section>
  parts: Map<Element, Part>
}

export const newSections = (): Sections => ({ around: new Map(), parts: new Map() })

const SECTIONS =
  'section,article,fieldset,form,dialog,main,nav,aside,[role="dialog"],[role="alertdialog"],[role="region"],[role="group"]'
const GROUPS =
  'dialog,fieldset,form,section,[role="dialog"],[role="alertdialog"],[role="group"],[role="region"]'
const DIALOGS = 'dialog,[role="dialog"],[role="alertdialog"]'
const HEADS =
  ':scope > legend, :scope > h1, :scope > h2, :scope > h3, :scope > h4, :scope > header > h1, :scope > header > h2, :scope > header > h3'
const MOST_LABELS = 6
const MOST_FIELDS = 40
const NONE: Section = { name: '', grouped: false }

/** The nearest part of the page that has a name: legend, label or heading. */
export function sectionOf(node: Element, pass?: Sections): Section {
  const parent = parentOf(node)
  const before = pass?.around.get(parent)
  if (before !== undefined) return before
  let found: Section = NONE
  let isName = false // what names a part is not inside it; its neighbours are
  for (let at = parent; at && found === NONE; at = parentOf(at)) {
    if (!at.matches(SECTIONS)) continue
    const part = partOf(at, pass)
    if (part.names.some((one) => one.contains(node))) isName = true
    else if (part.name) found = part
  }
  if (!isName) pass?.around.set(parent, found)
  return found
}

function partOf(section: Element, pass?: Sections): Part {
  let part = pass?.parts.get(section)
  if (!part) {
    const names = namesOf(section)
    const said = names.map((one) => one.textContent ?? '').join(' ')
    const name = tidy(section.getAttribute('aria-label')) || tidy(said)
    part = { names, name, grouped: isGroup(section, name, names) }
    pass?.parts.set(section, part)
  }
  return part
}

/** The nodes that name a part of the page: those that label it, else its heading. */
function namesOf(section: Element): Element[] {
  if (section.hasAttribute('aria-label')) return []
  const root = section.getRootNode() as Document | ShadowRoot
  const ids = section.getAttribute('aria-labelledby')?.split(/\s+/, MOST_LABELS) ?? []
  const labels = ids.map((id) => root.getElementById?.(id)).filter((one) => !!one)
  if (labels.length) return labels
  const head =
    section.querySelector(HEADS) ?? (section.matches(DIALOGS) ? section.querySelector('h1,h2,h3,h4') : null)
  return head ? [head] : []
}

/** Whether a part is one of few things whose name says which one it is, today and tomorrow. */
const isGroup = (section: Element, name: string, names: Element[]) =>
  section.matches(GROUPS) && !names.some((one) => isOfThePage(one, section)) && !isOfData(section, name)

/** A part called after what is written in it (*Edit Tea caddy*) is called otherwise with other data. */
function isOfData(section: Element, name: string): boolean {
  const fields = [...section.querySelectorAll('input,textarea')].slice(0, MOST_FIELDS)
  return fields.some((field) => {
    const { type, value } = field as HTMLInputElement
    return !/^(submit|button|reset|checkbox|radio)$/.test(type) && value.length > 2 && name.includes(value)
  })
}

/** The heading of the first degree is that of the page, unless it stands in a dialog. */
const isOfThePage = (head: Element, section: Element) => head.tagName === 'H1' && !section.matches(DIALOGS)
