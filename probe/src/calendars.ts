/** Calendars: grids of days, in which neither the row nor the column says which day it is. */
import { closest } from './nodes'

const GRIDS = 'table,[role=grid],[role=table]'
const CELLS = 'td,[role=gridcell],[role=cell],button,a,span,div'
const FEWEST = 24

let known = new WeakMap<Element, boolean>()
let knownAt = -1e9
const FRESH = 500

/** Whether a grid shows the days of a month. */
export function isCalendar(grid: Element): boolean {
  const now = performance.now()
  if (now - knownAt > FRESH) {
    known = new WeakMap()
    knownAt = now
  }
  let answer = known.get(grid)
  if (answer === undefined) {
    answer = hasWeeks(grid)
    known.set(grid, answer)
  }
  return answer
}

const WEEKS = 3
const MOST_WEEKS = 120
/** Rows of twelve months side by side, with their headings. */
const IN_WEEK = 5

/** Days stand side by side, a week or all of them in one row; a column of numbers is no calendar. */
function hasWeeks(grid: Element): boolean {
  // A long table is none; to read all of its cells would be dear.
  if (grid.querySelectorAll('tr,[role=row]').length > MOST_WEEKS) return false
  const days = new Set<number>()
  const rows = new Map<Element | null, number>()
  for (const cell of grid.querySelectorAll(CELLS)) {
    if (cell.childElementCount) continue
    const text = cell.textContent?.trim() ?? ''
    if (!/^\d{1,2}$/.test(text) || +text < 1 || +text > 31) continue
    days.add(+text)
    const row = cell.closest('tr,[role=row]') ?? cell.parentElement
    rows.set(row, (rows.get(row) ?? 0) + 1)
  }
  const weeks = [...rows.values()].filter((count) => count >= IN_WEEK)
  return days.size >= FEWEST && (weeks.length >= WEEKS || weeks.some((count) => count >= FEWEST))
}

/** Whether a node is a day of a calendar, or something in one. */
export function isCalendarDay(node: Element): boolean {
  if (/^\d{4}-\d\d-\d\d/.test(node.getAttribute('data-date') ?? '')) return true
  const text = node.textContent?.trim() ?? ''
  if (!/^\d{1,2}$/.test(text)) return false
  const grid = closest(node, GRIDS) ?? holder(node)
  return !!grid && isCalendar(grid)
}

/** Calendars without the markup of a grid: what holds all the days side by side. */
function holder(node: Element): Element | null {
  let at = node.parentElement
  for (let up = 0; at && up < 4; at = at.parentElement, up += 1) if (at.childElementCount >= FEWEST) return at
  return null
}
