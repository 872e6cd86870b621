/** The part of the page that a node is in: a dialog, a group, a form with a name. */
import { parentOf } from './nodes'
import { tidy } from './texts'

/** A part of the page: its name, and whether it is a group of few things rather than the whole page. */
export interface Section {
  name: string
  grouped: boolean
}

/** What has been found out of sections by parent, for a pass in which the page does not change. */
export type Sections = Map<Element | null, Section>

const SECTIONS =
  'section,article,fieldset,form,dialog,main,nav,aside,[role="dialog"],[role="alertdialog"],[role="region"],[role="group"]'
const GROUPS =
  'dialog,fieldset,form,section,[role="dialog"],[role="alertdialog"],[role="group"],[role="region"]'
const DIALOGS = 'dialog,[role="dialog"],[role="alertdialog"]'
const HEADS =
  ':scope > legend, :scope > h1, :scope > h2, :scope > h3, :scope > h4, :scope > header > h1, :scope > header > h2, :scope > header > h3'
const NONE: Section = { name: '', grouped: false }

/** The nearest part of the page that has a name: legend, label or heading. */
export function sectionOf(node: Element, pass?: Sections): Section {
  const parent = parentOf(node)
  const before = pass?.get(parent)
  if (before !== undefined) return before
  let isName = false // what names a part is not inside it; its neighbours are
  for (let at = parent; at; at = parentOf(at)) {
    if (!at.matches(SECTIONS)) continue
    const names = namesOf(at)
    const name =
      tidy(at.getAttribute('aria-label')) || tidy(names.map((one) => one.textContent ?? '').join(' '))
    if (names.some((one) => one.contains(node))) isName = true
    else if (name) {
      const found = { name, grouped: at.matches(GROUPS) && !names.some((one) => isOfThePage(one, at!)) }
      if (!isName) pass?.set(parent, found)
      return found
    }
  }
  if (!isName) pass?.set(parent, NONE)
  return NONE
}

/** The nodes that name a part of the page: those that label it, else its heading. */
function namesOf(section: Element): Element[] {
  if (section.hasAttribute('aria-label')) return []
  const root = section.getRootNode() as Document | ShadowRoot
  const ids = section.getAttribute('aria-labelledby')?.split(/\s+/) ?? []
  const labels = ids.map((id) => root.getElementById?.(id)).filter((one) => !!one)
  if (labels.length) return labels
  const head =
    section.querySelector(HEADS) ?? (section.matches(DIALOGS) ? section.querySelector('h1,h2,h3,h4') : null)
  return head ? [head] : []
}

/** The heading of the first degree is that of the page, unless it stands in a dialog. */
const isOfThePage = (head: Element, section: Element) => head.tagName === 'H1' && !section.matches(DIALOGS)
