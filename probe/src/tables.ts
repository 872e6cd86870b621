/** What has rows: tables, grids, lists of terms, and blocks of one shape, in a list or not. */
import { textOf, visible } from './facts'
import { blockCells, blocksIn } from './rows'

const TABLES = 'table,[role=table],[role=grid],[role=treegrid]'
const LISTS = 'ul,ol,[role=list],[role=feed]'
const ITEMS = 'li,[role=listitem],article,[role=article]'

interface Shown {
  headers: string[]
  rows: string[][]
}

function rowsOf(table: Element): Shown {
  const rows = [...table.querySelectorAll('tr,[role=row]')].filter((row) => visible(row))
  const cells = (row: Element) =>
    [...row.querySelectorAll('th,td,[role=cell],[role=gridcell],[role=columnheader],[role=rowheader]')].map(
      (cell) => textOf(cell),
    )
  const isHead = (row: Element) =>
    !row.querySelector('td,[role=cell],[role=gridcell]') || !!row.closest('thead')
  const heads = rows.filter(isHead)
  return {
    headers: heads.length ? cells(heads.at(-1)!) : [],
    rows: rows.filter((row) => !isHead(row) && !row.closest('tfoot')).map(cells),
  }
}

function termsOf(list: Element): Shown {
  const rows: string[][] = []
  for (const child of list.querySelectorAll('dt,dd')) {
    if (child.tagName === 'DT') rows.push([textOf(child), ''])
    else if (rows.length) rows.at(-1)![1] = [rows.at(-1)![1], textOf(child)].filter(Boolean).join(' ')
  }
  return { headers: ['Term', 'Description'], rows }
}

function listed(list: Element): Element[] {
  return [...list.querySelectorAll(ITEMS)].filter((item) => item.parentElement?.closest(LISTS) === list)
}

/** The items of a list: by heading and terms where they have such, else each by its text. */
function itemsOf(all: Element[]): Shown {
  const items = all.filter((item) => visible(item))
  const cells = items.map((item) => new Map(blockCells(item).map(([, head, text]) => [head, text])))
  const headers = [...new Set(cells.flatMap((row) => [...row.keys()]))]
  if (!headers.length) return { headers: ['Item'], rows: items.map((item) => [textOf(item)]) }
  return { headers, rows: cells.map((row) => headers.map((head) => row.get(head) ?? '')) }
}

function shownOf(node: Element): Shown | null {
  if (node.tagName === 'DL') return termsOf(node)
  if (node.matches(TABLES)) return rowsOf(node)
  if (node.matches(LISTS)) return itemsOf(listed(node))
  const blocks = blocksIn(node)
  return blocks.length ? itemsOf(blocks) : null
}

/** Headers and rows of texts as JSON; null for what has none. */
export function tableOf(node: Element): string | null {
  const shown = shownOf(node)
  return shown && JSON.stringify(shown)
}

/** How many rows below the headers are to be seen, as text; null for what has none. */
export function numberOfRows(node: Element): string | null {
  if (node.tagName === 'DL') return String(node.querySelectorAll('dt').length)
  if (node instanceof HTMLTableElement) {
    const rows = [...node.rows].filter((row) => !row.closest('thead,tfoot'))
    return String(rows.filter((row) => visible(row) && row.querySelector('td')).length)
  }
  if (!node.matches(TABLES)) {
    const shown = shownOf(node)
    return shown && String(shown.rows.length)
  }
  const rows = [...node.querySelectorAll('[role="row"]')]
  return String(rows.filter((row) => row.querySelector('[role="cell"],[role="gridcell"]')).length)
}
