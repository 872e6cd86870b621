/** Rows: of tables and grids, and blocks of one shape that repeat, in a list or without any markup. */
import { isCalendar } from './calendars'
import { closest, parentOf } from './nodes'
import { tidy } from './texts'

/** A cell with the header it stands under and its text. */
export type Cell = [Element, string, string]

/** What has been found out of rows, for a pass in which the page does not change. */
export interface Rows {
  around: Map<Element | null, Element | null>
  texts: Map<Element, [Element, string][]>
  cells: Map<Element, Cell[]>
  days: Map<Element, boolean>
  heads: Map<Element, string>
  numbered: Map<Element, Map<string, Element>>
}

export const newRows = (): Rows => ({
  around: new Map(),
  texts: new Map(),
  cells: new Map(),
  days: new Map(),
  heads: new Map(),
  numbered: new Map(),
})

const CELLS = 'td,th,[role="cell"],[role="gridcell"],[role="rowheader"]'
const ROWS = 'tr,[role="row"]'
const MARKED = 'li,[role="listitem"],article,[role="article"]'
const UNMARKED = 'div,section,fieldset,form,figure,a'
const HOLDERS = 'div,section,main,form,fieldset'
const HEADINGS = 'h1,h2,h3,h4,h5,h6,[role="heading"]'
const MOST_CELLS = 12

/** The texts of the other cells of the row that a node is in. */
export function rowOf(node: Element, pass?: Rows): string[] {
  const row = rowAround(node, pass)
  if (!row || isInCalendar(row, pass)) return []
  return textsOf(row, pass)
    .filter(([cell]) => cell === row || !cell.contains(node))
    .slice(0, MOST_CELLS)
    .map(([, text]) => text)
}

/** Whether a node is in the cell that says what its row is of, the first with words, or in a heading. */
export function leadsRow(node: Element, pass?: Rows): boolean {
  const row = rowAround(node, pass)
  if (!row || isInCalendar(row, pass)) return false
  if (closest(node, 'th,thead,[role=columnheader],[role=rowheader]')) return true
  const lead = textsOf(row, pass).find(([, text]) => /\p{L}/u.test(text))?.[0]
  return !!lead && lead !== row && lead.contains(node)
}

function textsOf(row: Element, pass?: Rows): [Element, string][] {
  let cells = pass?.texts.get(row)
  if (!cells) {
    cells = row.matches(ROWS)
      ? [...row.querySelectorAll(CELLS)]
          .slice(0, MOST_CELLS + 1)
          .map((cell) => [cell, tidy(cell.textContent)])
      : tellingCells(row).map(([cell, , text]) => [cell, text])
    pass?.texts.set(row, cells)
  }
  return cells
}

/** The other cells of the row that a node is in, by the headers above them. */
export function cellsOf(node: Element, pass?: Rows): Record<string, string> {
  const row = rowAround(node, pass)
  if (!row || isInCalendar(row, pass)) return {}
  const known = pass?.cells.get(row) ?? (row.matches(ROWS) ? headed(row, pass) : blockCells(row))
  pass?.cells.set(row, known)
  const found: Record<string, string> = {}
  for (const [cell, head, text] of known) if (!cell.contains(node)) found[head] = text
  return found
}

function isInCalendar(row: Element, pass?: Rows): boolean {
  const before = pass?.days.get(row)
  if (before !== undefined) return before
  const grid = closest(row, 'table,[role="table"],[role="grid"]')
  const found = !!grid && isCalendar(grid)
  pass?.days.set(row, found)
  return found
}

/** The header of the column that a cell, or something inside it, is in. */
export function columnOf(node: Element, pass?: Rows): string {
  const cell = closest(node, CELLS)
  if (!cell) return ''
  const before = pass?.heads.get(cell)
  if (before !== undefined) return before
  const found = headOf(cell, pass)
  pass?.heads.set(cell, found)
  return found
}

function headOf(cell: Element, pass?: Rows): string {
  const row = closest(cell, ROWS)
  const table = row && closest(row, 'table,[role="table"],[role="grid"],[role="treegrid"]')
  if (!row || !table) return ''
  const head =
    table instanceof HTMLTableElement && table.tHead?.rows.length
      ? table.tHead.rows[table.tHead.rows.length - 1]!
      : table.querySelector(ROWS)
  if (!head || head === row || cell.matches('[role="columnheader"]')) return ''
  const header = numberedHead(cell, table, pass) ?? head.children[placeIn(cell)]
  if (!header || header.matches('[scope=row],[role=rowheader]') || isCalendar(table)) return ''
  const isHeader = header.matches('th,[role="columnheader"]') || header.closest('thead')
  return isHeader ? headingText(header) : ''
}

/** The header of the same number, in grids that draw their cells in another order, or only some of them. */
function numberedHead(cell: Element, table: Element, pass?: Rows): Element | undefined {
  const number = cell.getAttribute('aria-colindex')
  if (!number) return undefined
  const known = pass?.numbered.get(table) ?? numberedHeads(table)
  pass?.numbered.set(table, known)
  return known.get(number)
}

/** The headers of a table by their numbers; of several over each other the lowest that says something. */
function numberedHeads(table: Element): Map<string, Element> {
  const heads = [...table.querySelectorAll('[role="columnheader"][aria-colindex]')]
  return new Map(
    heads
      .filter((head) => head.textContent?.trim())
      .map((head) => [head.getAttribute('aria-colindex') ?? '', head]),
  )
}

const MARKS = /[\s▲▼△▽↑↓⇅⇵⌃⌄▴▾▵▿⬆⬇↕]+$/u

/** What a heading of a column says, without the mark of how it is sorted. */
function headingText(header: Element): string {
  const now = performance.now()
  const before = headings.get(header)
  if (before && now - before.at < FRESH) return before.text
  const text = tidy(tidy((header as HTMLElement).innerText ?? header.textContent).replace(MARKS, ''))
  headings.set(header, { text, at: now })
  return text
}

/** What is read of a heading is dear and asked for by every cell below it. */
const headings = new WeakMap<Element, { text: string; at: number }>()
const FRESH = 300
/** Milliseconds for which a heading is taken to say what it said. */

function tellingCells(block: Element): Cell[] {
  const cells = blockCells(block)
  return cells.length ? cells : phrases(block)
}

function headed(row: Element, pass?: Rows): Cell[] {
  const found: Cell[] = []
  for (const cell of [...row.querySelectorAll(CELLS)].slice(0, MOST_CELLS + 1)) {
    const head = columnOf(cell, pass)
    if (head) found.push([cell, head, tidy(cell.textContent)])
  }
  return found
}

/** Which column a cell begins in, from 0; cells that span several count as many. */
function placeIn(cell: Element): number {
  let place = 0
  for (let at = cell.previousElementSibling; at; at = at.previousElementSibling)
    place += (at as HTMLTableCellElement).colSpan || 1
  return place
}

/** What a block says of its thing, as cells: its heading, and its terms. */
export function blockCells(block: Element): Cell[] {
  const found: Cell[] = []
  const heading = [...block.querySelectorAll(HEADINGS)].find((part) => isOwn(part, block))
  if (heading) found.push([heading, 'Heading', tidy(heading.textContent)])
  for (const term of [...block.querySelectorAll('dt')].slice(0, MOST_CELLS)) {
    const value = term.nextElementSibling
    if (value?.tagName === 'DD' && isOwn(term, block))
      found.push([value, tidy(term.textContent), tidy(value.textContent)])
  }
  return found
}

const CONTROLS =
  'button,a[href],input,select,textarea,label,[role=button],[role=link],[role=combobox],[role=listbox]'
const MOST_PHRASES = 3

/** What a block without heading or terms says of its thing: its first short texts, as cells. */
function phrases(block: Element): Cell[] {
  const found: Cell[] = []
  for (const holder of [block, ...block.querySelectorAll('*')]) {
    if (found.length >= MOST_PHRASES) break
    if (holder !== block && closest(holder, CONTROLS)) continue
    const own = [...holder.childNodes].filter((one) => one.nodeType === Node.TEXT_NODE)
    const text = tidy(own.map((one) => one.nodeValue).join(''))
    if (text && text.length <= 60) found.push([holder, '', text])
  }
  return found
}

/** Whether a part speaks of the block itself, not of a smaller block inside it. */
function isOwn(part: Element, block: Element): boolean {
  const nearest = closest(part, MARKED)
  return !nearest || nearest === block || nearest.contains(block)
}

/** The blocks of one shape that a node mostly consists of, without list or table markup. */
export function blocksIn(node: Element): Element[] {
  if (node.childElementCount < 2 || !node.matches(HOLDERS)) return []
  const blocks = [...node.children].filter((child) => child.matches(UNMARKED) && isBlock(child))
  return blocks.length * 2 > node.childElementCount ? blocks : []
}

/** The row of a table that a node is in, or the block that is like a row. */
export function rowAround(node: Element, pass?: Rows): Element | null {
  const parent = parentOf(node)
  const before = pass?.around.get(parent)
  if (before !== undefined) return before
  let found: Element | null = null
  for (let at = parent; at && !found; at = parentOf(at)) if (isRow(at)) found = at
  pass?.around.set(parent, found)
  return found
}

function isRow(node: Element): boolean {
  if (node.matches(ROWS)) return true
  return node.matches(`${MARKED},${UNMARKED}`) && (isBlock(node) || isPhrased(node))
}

/** A row of many of one shape that says in a few words what it is of. */
function isPhrased(node: Element): boolean {
  const alike = [node.nextElementSibling, node.previousElementSibling].filter(
    (other) => other && areAlike(node, other),
  )
  if (!alike.length || node.querySelectorAll('*').length > 60) return false
  const own = phrases(node)[0]?.[2]
  return !!own && !!node.querySelector(CONTROLS) && alike.some((other) => phrases(other!)[0]?.[2] !== own)
}

/** A block has a neighbour like it, and both say what they are of. */
function isBlock(node: Element): boolean {
  const alike = [node.nextElementSibling, node.previousElementSibling].find(
    (other) => other && areAlike(node, other),
  )
  return !!alike && blockCells(node).length > 0 && blockCells(alike).length > 0
}

/** Items of a list are alike by their markup, others by their tag, a class and their parts. */
function areAlike(one: Element, other: Element): boolean {
  if (one.matches(MARKED)) return other.matches(MARKED)
  if (one.tagName !== other.tagName || one.childElementCount !== other.childElementCount) return false
  const classes = [...one.classList]
  if (classes.length && !classes.some((name) => other.classList.contains(name))) return false
  return [...one.children].every((part, n) => part.tagName === other.children[n]!.tagName)
}
