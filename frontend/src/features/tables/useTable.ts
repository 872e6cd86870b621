import { computed, nextTick, ref, shallowRef, triggerRef, watch } from 'vue'
import type { Ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import type { Again, Edit, Edits } from '@/features/editing/useEdits'
import { merged } from '@/shared/conflicts'
import { complain } from '@/shared/notes'

export type Row = Shapes['RowOut']
export type Column = Shapes['ColumnOut']

type Cell = Shapes['SetCellsAsked']['cells'][number]

/** Most cells about which somebody is asked one by one when others changed them as well. */
const MOST_ASKED = 3
const newId = () => crypto.randomUUID().replaceAll('-', '').slice(0, 12)

/**
 * The table of `owner`: changed here at once and sent after. What others change meanwhile is taken
 * over as soon as nothing of our own is under way; what conflicts is shown as it is on the server.
 */
export function useTable(owner: Ref<Test>, edits: Edits) {
  const columns = shallowRef<Column[]>([])
  const rows = shallowRef<Row[]>([])
  const source = ref<Record<string, string>>({})
  const loaded = ref(false)
  let known = { id: 0, version: 0 }
  let waiting = 0
  let stale = false

  async function load() {
    try {
      const id = owner.value.id
      const got = await ask(api.GET('/api/tests/{id}/table', { params: { path: { id } } }))
      if (waiting) stale = true
      else {
        columns.value = got.columns
        rows.value = got.rows
        source.value = got.source
        known = { id, version: got.table_version }
        loaded.value = true
      }
    } catch (error) {
      complain(error)
    }
  }
  watch(
    [() => owner.value.id, () => owner.value.table_version],
    ([id, version]) => {
      if (!waiting && (id !== known.id || version !== known.version)) void load()
    },
    { immediate: true },
  )

  /** The cells as they are to be set where somebody else changed their rows; `was` they held before. */
  async function cellsAgain(cells: Cell[], was: string[]): Promise<Edit | null | undefined> {
    const params = { path: { id: owner.value.id } }
    const newest = await ask(api.GET('/api/tests/{id}/table', { params }))
    const held = new Map(newest.rows.map((row) => [row.id, row.values]))
    const now = cells.map(({ row, column }) => held.get(row)?.[column])
    const clashes = cells.filter(({ value }, n) => now[n] !== was[n] && now[n] !== value)
    if (clashes.length > MOST_ASKED || now.includes(undefined)) return undefined
    const kept: Cell[] = []
    for (const [n, cell] of cells.entries()) {
      const value = await merged(cell.column, cell.value, was[n]!, now[n]!)
      if (value !== null) kept.push({ ...cell, value })
    }
    return kept.length ? { do: 'set cells', cells: kept } : null
  }

  async function change(edit: Edit, here?: () => void, again?: Again): Promise<boolean> {
    here?.()
    triggerRef(rows)
    triggerRef(columns)
    waiting += 1
    const answer = await edits.edit(edit, again)
    const own = answer && answer.before.table_version === known.version
    if (own && answer.after.version === answer.before.version + 1) known.version = answer.after.table_version
    else stale = true
    waiting -= 1
    await nextTick() // the newest version comes in with the next rendering
    if (!waiting && (stale || !here || owner.value.table_version !== known.version)) {
      stale = false
      await load()
    }
    return Boolean(answer)
  }

  const byName = computed(() => new Map(columns.value.map((column) => [column.name, column])))
  const empty = (values: Record<string, string> = {}): Row => ({
    id: newId(),
    values: { ...Object.fromEntries(columns.value.map(({ name }) => [name, ''])), ...values },
    ticked: false,
    designed: false,
  })

  return {
    columns,
    rows,
    source,
    loaded,
    byName,
    empty,
    setCells: (cells: { row: Row; column: string; value: string }[]) => {
      const meant = cells.map(({ row, ...rest }) => ({ row: row.id, ...rest }))
      const was = cells.map(({ row, column }) => row.values[column] ?? '')
      return change(
        { do: 'set cells', cells: meant },
        () => {
          for (const { row, column, value } of cells) row.values[column] = value
        },
        () => cellsAgain(meant, was),
      )
    },
    addRows: (fresh: Row[], after?: Row) =>
      change({ do: 'add rows', rows: fresh, after: after?.id ?? null }, () => {
        const place = after ? rows.value.indexOf(after) + 1 : rows.value.length
        rows.value = [...rows.value.slice(0, place), ...fresh, ...rows.value.slice(place)]
      }),
    removeRows: (gone: Row[]) =>
      change({ do: 'remove rows', rows: gone.map((row) => row.id) }, () => {
        const ids = new Set(gone.map((row) => row.id))
        rows.value = rows.value.filter((row) => !ids.has(row.id))
      }),
    tick: (meant: Row[], on: boolean) =>
      change({ do: 'tick rows', rows: meant.map((row) => row.id), on }, () => {
        for (const row of meant) row.ticked = on
      }),
    sortBy: (column: string, down: boolean) => change({ do: 'sort rows', column, down }),
    addColumn: (column: string) => change({ do: 'add column', column }),
    setColumn: ({ name, type, role, choices }: Column) =>
      change({ do: 'set column', column: name, type, role, choices }),
    removeColumn: (column: string) => change({ do: 'remove column', column }),
    renameColumn: (column: string, name: string) => change({ do: 'rename column', column, name }),
    reload: load,
  }
}

export type Table = ReturnType<typeof useTable>
