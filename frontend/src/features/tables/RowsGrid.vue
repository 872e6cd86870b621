<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, toRef, watch } from 'vue'

import type { Test } from '@/api/client'
import { useTest } from '@/api/queries'
import { useEdits } from '@/features/editing/useEdits'
import type { Edits } from '@/features/editing/useEdits'
import { merged } from '@/shared/conflicts'
import { draftOf, dropDraft, keepDraft } from '@/shared/drafts'
import Near from '@/shared/Near.vue'
import { beside } from '@/shared/beside'
import { complain, say } from '@/shared/notes'
import { useTyped } from '@/shared/useTyped'

import ColumnHead from './ColumnHead.vue'
import TableTools from './TableTools.vue'
import { useClipboard } from './useClipboard'
import { useRefused } from './useRefused'
import { useSelection } from './useSelection'
import { useTable } from './useTable'
import type { Row } from './useTable'

/** The rows of a test, of its own or shared: typed, pasted, filled down, filtered. */
const props = defineProps<{ test: Test; edits: Edits; fixed: boolean }>()
defineEmits<{ check: [] }>()
defineExpose({ goTo })

const HEIGHT = 30
const WIDTH = 176
const place = ref<HTMLElement | null>(null)
const words = ref('')

/** The document that the rows are kept in. */
const shared = useTest(computed(() => props.test.shared?.id ?? props.test.id))
const owner = computed(() => shared.data.value ?? props.test)
const ownEdits = useEdits(owner)
const edits = computed(() => (props.test.shared ? ownEdits : props.edits))
const table = useTable(owner, {
  ...props.edits,
  edit: (edit, again) => edits.value.edit(edit, again),
})
const { rows, columns } = table

/** Places of the rows that the filter leaves. */
const view = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  const places = rows.value.map((_, at) => at)
  if (!wanted) return places
  return places.filter((at) =>
    Object.values(rows.value[at]!.values).some((value) => value.toLowerCase().includes(wanted)),
  )
})
const shown = useVirtualizer(
  computed(() => ({
    count: view.value.length,
    getScrollElement: () => place.value,
    estimateSize: () => HEIGHT,
    overscan: 4,
  })),
)
const names = computed(() => columns.value.map((column) => column.name))
const across = useVirtualizer(
  computed(() => ({
    horizontal: true,
    count: names.value.length,
    getScrollElement: () => place.value,
    estimateSize: () => WIDTH,
    scrollPaddingEnd: 64,
    overscan: 2,
  })),
)
/** The columns that are drawn, and the room that those left and right of them take. */
const drawn = computed(() => across.value.getVirtualItems().map(({ index }) => index))
const left = computed(() => across.value.getVirtualItems()[0]?.start ?? 0)
const right = computed(() => across.value.getTotalSize() - (across.value.getVirtualItems().at(-1)?.end ?? 0))
const ticked = computed(() => rows.value.filter((row) => row.ticked))
const selection = useSelection(
  toRef(() => view.value.length),
  toRef(() => names.value.length),
)

/**
 * What is being typed into a cell that held `was`; a change that comes in meanwhile must not wipe
 * it out, nor be wiped out by it.
 */
const NOTHING = { row: '', column: '', text: '', was: '' }
const desk = computed(() => `cell ${owner.value.id}`)
/** A cell that was being typed into when the page was left is taken up again. */
const draft = ref(props.fixed ? NOTHING : (draftOf<typeof NOTHING>(desk.value) ?? NOTHING))
watch(draft, (now) => {
  if (now.row && now.text !== now.was) keepDraft(desk.value, now)
  else dropDraft(desk.value)
})
const isDraft = (row: Row, column: string) => draft.value.row === row.id && draft.value.column === column
const textIn = (row: Row, column: string) =>
  isDraft(row, column) ? draft.value.text : (row.values[column] ?? '')

/** Cells whose values wait until Lantern answers. */
const waiting = computed(
  () =>
    new Set(
      edits.value.waiting.value.flatMap(({ edit }) =>
        edit.do === 'set cells' ? edit.cells.map((one) => `${one.row} ${one.column}`) : [],
      ),
    ),
)
const isUnsaved = (row: Row, column: string) =>
  waiting.value.has(`${row.id} ${column}`) || (isDraft(row, column) && draft.value.text !== draft.value.was)

function type(row: Row, column: string, event: Event) {
  if (!isDraft(row, column)) settleLast() // that cell may have been scrolled away
  const was = isDraft(row, column) ? draft.value.was : (row.values[column] ?? '')
  const text = (event.target as HTMLInputElement).value
  draft.value = { row: row.id, column, text, was }
  typed.check({ value: text, row: row.id, column })
}
/** What is wrong with what is being typed, and with what is there, at once. */
const typed = useTyped(() => owner.value.id)
const refused = useRefused(() => props.test)
function pick(row: Row, column: string, value: string) {
  draft.value = NOTHING
  typed.forget()
  void table.setCells([{ row, column, value }])
}
async function settle(row: Row, column: string) {
  if (!isDraft(row, column)) return
  const { text, was } = draft.value
  draft.value = NOTHING
  typed.forget()
  if (text === was) return
  const value = await merged(column, text, was, row.values[column] ?? '')
  const now = rows.value.find((one) => one.id === row.id) // it may have been read anew meanwhile
  if (!now) tellGone(text)
  else if (value !== null && value !== now.values[column]) void table.setCells([{ row: now, column, value }])
}

watch(rows, (now) => {
  const { row, text, was } = draft.value
  if (!row || now.some((one) => one.id === row)) return
  draft.value = NOTHING
  if (text !== was) tellGone(text)
})
function tellGone(text: string) {
  complain(new Error(`Somebody deleted the row in which you had typed “${text}”.`))
}

function settleLast() {
  const last = rows.value.find((row) => row.id === draft.value.row)
  if (last) void settle(last, draft.value.column)
}

/** Bring a cell into view and enter it; it is drawn some frames later where it was far away. */
function focus(at: number, column: number, frames = 10) {
  shown.value.scrollToIndex(at)
  across.value.scrollToIndex(column)
  const enter = () => {
    const cell = place.value?.querySelector<HTMLElement>(`[data-at="${at}:${column}"]`)
    if (cell) cell.focus()
    else if (frames-- > 0) requestAnimationFrame(enter)
  }
  void nextTick(enter)
}
/** The cell that Tab leads to; null at either end of the table. */
function nextTo(at: number, column: number, by: 1 | -1): [number, number] | null {
  const place = at * names.value.length + column + by
  if (place < 0 || place >= view.value.length * names.value.length) return null
  return [Math.floor(place / names.value.length), place % names.value.length]
}
function goTo(row: number, column: string) {
  words.value = ''
  void nextTick(() => focus(Math.max(row - 1, 0), Math.max(names.value.indexOf(column), 0)))
}

async function addRow() {
  words.value = ''
  const last = rows.value.length
  if (await table.addRows([table.empty()])) await nextTick(() => focus(last, 0))
}
async function removeRows() {
  const gone = ticked.value
  if (await table.removeRows(gone))
    say(
      `${gone.length} ${gone.length === 1 ? 'row was' : 'rows were'} deleted.`,
      () => void edits.value.undo(),
    )
}

/** The chosen cells as rows of [row, column] in the order they are seen. */
const chosenCells = () =>
  selection
    .cells()
    .map((line) => line.map(([at, c]) => [rows.value[view.value[at]!]!, names.value[c]!] as const))

/** Fill the first of the chosen rows down over the others; from one cell, down to the end. */
function fillDown() {
  if (!selection.head.value) {
    complain(new Error('Choose a cell first; its value goes into the cells below it.'))
    return
  }
  selection.toEndIfOne()
  const [first, ...rest] = chosenCells()
  const cells = rest.flatMap((line) =>
    line.map(([row, column], n) => ({ row, column, value: textIn(first![n]![0], column) })),
  )
  if (cells.length)
    void table
      .setCells(cells)
      .then(
        (done) =>
          done &&
          say(
            cells.length === 1 ? 'One cell was filled.' : `${cells.length} cells were filled.`,
            () => void edits.value.undo(),
          ),
      )
}
function clear() {
  const cells = chosenCells().flatMap((line) => line.map(([row, column]) => ({ row, column, value: '' })))
  void table.setCells(cells)
}

function onKey(event: KeyboardEvent, at: number, column: number) {
  const step = { ArrowDown: [1, 0], Enter: [1, 0], ArrowUp: [-1, 0] }[event.key] as
    [number, number] | undefined
  const sideways = event.shiftKey && { ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
  const by = step ?? (sideways as [number, number] | undefined)
  const tab = event.key === 'Tab' ? nextTo(at, column, event.shiftKey ? -1 : 1) : null
  if (tab) focus(...tab)
  else if (by && event.shiftKey && event.key !== 'Enter') selection.extend(by[0], by[1])
  else if (by) focus(Math.min(Math.max(at + by[0], 0), view.value.length - 1), column)
  else if (event.key === 'Escape') draft.value = NOTHING
  else if (event.key === 'Delete' && selection.many.value) clear()
  else return
  event.preventDefault()
}
function onFocus(at: number, column: number) {
  selection.start(at, column)
}
function onDown(event: MouseEvent, at: number, column: number) {
  if (!event.shiftKey || !selection.head.value) return
  event.preventDefault()
  selection.stretch(at, column)
}
const { onCopy, onPaste } = useClipboard({
  table,
  names,
  many: selection.many,
  chosen: () => chosenCells().map((line) => line.map(([row, column]) => textIn(row, column))),
  from: (at, count) => view.value.slice(at, at + count).map((one) => rows.value[one]!),
})

const tickAll = (event: Event) =>
  table.tick(
    view.value.map((at) => rows.value[at]!),
    (event.target as HTMLInputElement).checked,
  )
watch(words, () => shown.value.scrollToIndex(0))
</script>

<template>
  <div class="flex h-full min-h-0 flex-col" data-role="rows">
    <TableTools
      v-model:words="words"
      :test="test"
      :owner="owner"
      :edits="props.edits"
      :owner-edits="edits"
      :table="table"
      :fixed="fixed"
      :ticked="ticked.length"
      :left="view.length"
      @add-row="addRow"
      @fill-down="fillDown"
      @remove-ticked="removeRows"
      @check="$emit('check')"
    />
    <p v-if="table.loaded.value && columns.length === 0" class="px-3 py-2 text-soft">
      No data yet. Press a value in a sentence and replace it by a column, take in a spreadsheet, or add a
      column above.
    </p>
    <div v-else ref="place" class="min-h-0 flex-1 overflow-auto border-t border-line" @copy="onCopy">
      <table
        class="table-fixed border-collapse text-sm"
        :style="{ width: `calc(4rem + ${across.getTotalSize()}px)` }"
      >
        <thead class="sticky top-0 z-10 bg-sunk">
          <tr>
            <th class="sticky left-0 z-10 w-16 bg-sunk px-2 py-1 text-left">
              <input
                type="checkbox"
                :checked="ticked.length === rows.length && ticked.length > 0"
                :disabled="fixed"
                aria-label="Tick all rows"
                @change="tickAll"
              />
            </th>
            <th v-if="left" :style="{ width: `${left}px` }" aria-hidden="true" />
            <th
              v-for="column in drawn.map((n) => columns[n]!)"
              :key="column.name"
              :style="{ width: `${WIDTH}px` }"
              class="border-l border-line px-2 py-1 text-left text-xs font-semibold"
            >
              <ColumnHead :column="column" :table="table" :test="test" :fixed="fixed" />
              <datalist v-if="column.offers.length" :id="`choices of ${column.name}`">
                <option v-for="one in column.offers" :key="one">{{ one }}</option>
              </datalist>
            </th>
            <th v-if="right" :style="{ width: `${right}px` }" aria-hidden="true" />
          </tr>
        </thead>
        <tbody>
          <tr
            v-if="shown.getVirtualItems()[0]"
            :style="{ height: `${shown.getVirtualItems()[0]!.start}px` }"
            aria-hidden="true"
          >
            <td />
          </tr>
          <template v-for="item in shown.getVirtualItems()" :key="rows[view[item.index]!]?.id">
            <tr
              v-for="row in [rows[view[item.index]!]!].filter(Boolean)"
              :key="row.id"
              class="h-[30px] border-t border-line"
              data-role="data-row"
            >
              <td class="sticky left-0 z-[1] bg-sheet px-2 whitespace-nowrap text-soft">
                <input
                  :checked="row.ticked"
                  type="checkbox"
                  :disabled="fixed"
                  :aria-label="`Tick row ${view[item.index]! + 1}`"
                  @change="table.tick([row], ($event.target as HTMLInputElement).checked)"
                />
                {{ view[item.index]! + 1 }}
                <span v-if="row.designed" title="Designed" aria-label="designed">◇</span>
              </td>
              <td v-if="left" aria-hidden="true" />
              <td
                v-for="[name, column] in drawn.map((n) => [names[n]!, n] as const)"
                :key="name"
                class="relative border-l border-line p-0"
                :class="selection.many.value && selection.has(item.index, column) && 'bg-lit-paper'"
              >
                <input
                  class="w-full bg-transparent px-2 py-1"
                  :class="[
                    isUnsaved(row, name) && 'unsaved',
                    refused.at(view[item.index]! + 1, name) && 'refused',
                  ]"
                  :title="isUnsaved(row, name) ? 'Not saved yet' : refused.at(view[item.index]! + 1, name)"
                  :value="textIn(row, name)"
                  :readonly="fixed"
                  :list="table.byName.value.get(name)?.offers.length ? `choices of ${name}` : undefined"
                  :data-cell="`${view[item.index]}:${column}`"
                  :data-at="`${item.index}:${column}`"
                  :aria-label="`${name} of row ${view[item.index]! + 1}`"
                  @input="type(row, name, $event)"
                  @focus="onFocus(item.index, column)"
                  @blur="settle(row, name)"
                  @mousedown="onDown($event, item.index, column)"
                  @keydown="onKey($event, item.index, column)"
                  @paste="onPaste($event, item.index, column)"
                />
                <div
                  v-if="isDraft(row, name) && typed.wrong.value.length"
                  class="floating fixed z-20 w-72 p-2"
                  @vue:mounted="beside"
                  @vue:updated="beside"
                >
                  <Near :wrong="typed.wrong.value" @pick="pick(row, name, $event)" />
                </div>
              </td>
              <td v-if="right" aria-hidden="true" />
            </tr>
          </template>
          <tr
            :style="{ height: `${shown.getTotalSize() - (shown.getVirtualItems().at(-1)?.end ?? 0)}px` }"
            aria-hidden="true"
          >
            <td />
          </tr>
        </tbody>
      </table>
      <p v-if="words && view.length === 0" class="px-3 py-2 text-soft">No row has these letters.</p>
    </div>
  </div>
</template>
