import type { Ref } from 'vue'

import { complain, say } from '@/shared/notes'

import { blockOf, cellsOf } from './pasting'
import type { Row, useTable } from './useTable'

interface Grid {
  table: ReturnType<typeof useTable>
  names: Ref<string[]>
  /** Whether more than one cell is chosen: a single one is copied as any text is. */
  many: Ref<boolean>
  /** The texts of the chosen cells, line by line. */
  chosen: () => string[][]
  /** The rows that are seen from a place on. */
  from: (at: number, count: number) => Row[]
}

/** Blocks of cells out to and in from a spreadsheet. */
export function useClipboard({ table, names, many, chosen, from }: Grid) {
  function onCopy(event: ClipboardEvent) {
    if (!many.value) return
    event.preventDefault()
    event.clipboardData?.setData('text/plain', blockOf(chosen()))
  }

  /** A block goes over the cells from here on; rows are added as needed. */
  async function onPaste(event: ClipboardEvent, at: number, column: number) {
    const block = cellsOf(event.clipboardData?.getData('text/plain') ?? '')
    if (block.length === 1 && block[0]!.length === 1) return
    event.preventDefault()
    const width = Math.max(...block.map((line) => line.length))
    const room = names.value.length - column
    if (width > room) {
      const there = `The block has ${width} columns, but from here on there are ${room}.`
      complain(new Error(`${there} Add columns first.`))
      return
    }
    const there = from(at, block.length)
    const values = (line: string[]) => line.map((value, n) => [names.value[column + n]!, value] as const)
    const cells = there.flatMap((row, n) =>
      values(block[n]!).map(([name, value]) => ({ row, column: name, value })),
    )
    const fresh = block.slice(there.length).map((line) => table.empty(Object.fromEntries(values(line))))
    const pasted = [cells.length ? table.setCells(cells) : true, fresh.length ? table.addRows(fresh) : true]
    if ((await Promise.all(pasted)).every(Boolean)) say(`${block.length} rows were pasted.`)
  }

  return { onCopy, onPaste }
}
