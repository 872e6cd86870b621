<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'

import type { Test } from '@/api/client'
import { complain, say } from '@/shared/notes'

import ColumnHead from './ColumnHead.vue'
import DesignRows from './DesignRows.vue'
import { cellsOf } from './pasting'
import type { Edits } from './useEdits'

interface Row {
  id: string
  values: Record<string, string>
  ticked: boolean
  designed: boolean
}

const props = defineProps<{ test: Test; edits: Edits; fixed: boolean }>()
defineEmits<{ check: [] }>()
defineExpose({
  goTo: (row: number, column: string) => focus(Math.max(row - 1, 0), columns.value.indexOf(column)),
})

const HEIGHT = 30
const place = ref<HTMLElement | null>(null)
const columns = ref<string[]>([])
const rows = ref<Row[]>([])
const fresh = ref('')
let saving = 0

/** What is being typed into a cell; a change that comes in meanwhile must not wipe it out. */
const draft = ref({ cell: '', text: '' })

function takeOver() {
  if (saving) return // what was typed here is on its way; the server says when it conflicts
  columns.value = [...props.test.columns]
  rows.value = props.test.rows.map((row) => ({ ...row, values: { ...row.values } }))
}
watch(() => props.test.version, takeOver, { immediate: true })

const shown = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => place.value,
    estimateSize: () => HEIGHT,
    overscan: 12,
  })),
)

async function save() {
  saving += 1
  const saved = await props.edits.edit({ do: 'set table', columns: columns.value, rows: rows.value })
  saving -= 1
  await nextTick() // the newest version comes in with the next rendering
  takeOver()
  return saved
}

const empty = (): Row => ({
  id: '',
  values: Object.fromEntries(columns.value.map((name) => [name, ''])),
  ticked: false,
  designed: false,
})
const designing = ref(false)

function addRow() {
  rows.value.push(empty())
  void save().then(() => nextTick(() => focus(rows.value.length - 1, 0)))
}
function addColumn() {
  const name = fresh.value.trim()
  if (!name) return
  columns.value.push(name)
  for (const row of rows.value) row.values[name] = ''
  if (rows.value.length === 0) rows.value.push(empty())
  fresh.value = ''
  void save()
}
function removeColumn(name: string) {
  const used = props.test.steps.filter((step) =>
    Object.values(step.inputs).some((value) => value.includes(`\${row.${name}}`)),
  )
  if (used.length) {
    complain(
      new Error(
        `The column “${name}” is used by ${used.length} ${used.length === 1 ? 'sentence' : 'sentences'}. Change ${used.length === 1 ? 'it' : 'them'} first.`,
      ),
    )
    return
  }
  columns.value = columns.value.filter((one) => one !== name)
  void save().then((done) => done && say(`The column “${name}” was deleted.`, () => void props.edits.undo()))
}
function removeTicked() {
  const count = rows.value.filter((row) => row.ticked).length
  rows.value = rows.value.filter((row) => !row.ticked)
  void save().then(
    (done) =>
      done &&
      say(`${count} ${count === 1 ? 'row was' : 'rows were'} deleted.`, () => void props.edits.undo()),
  )
}
function tickAll(event: Event) {
  const on = (event.target as HTMLInputElement).checked
  for (const row of rows.value) row.ticked = on
  void save()
}
const ticked = computed(() => rows.value.filter((row) => row.ticked).length)

const valueOf = (row: number, column: number) => rows.value[row]?.values[columns.value[column] ?? ''] ?? ''
const shownIn = (row: number, column: number) =>
  draft.value.cell === `${row}:${column}` ? draft.value.text : valueOf(row, column)

function type(row: number, column: number, event: Event) {
  draft.value = { cell: `${row}:${column}`, text: (event.target as HTMLInputElement).value }
}
function settle(row: number, column: number) {
  if (draft.value.cell !== `${row}:${column}`) return
  const { text } = draft.value
  draft.value = { cell: '', text: '' }
  if (text === valueOf(row, column)) return
  rows.value[row]!.values[columns.value[column]!] = text
  void save()
}

function focus(row: number, column: number) {
  shown.value.scrollToIndex(row)
  void nextTick(() => place.value?.querySelector<HTMLElement>(`[data-cell="${row}:${column}"]`)?.focus())
}

function onKey(event: KeyboardEvent, row: number, column: number) {
  if (event.key === 'ArrowDown' || event.key === 'Enter')
    focus(Math.min(row + 1, rows.value.length - 1), column)
  else if (event.key === 'ArrowUp') focus(Math.max(row - 1, 0), column)
  else if (event.key === 'Escape') draft.value = { cell: '', text: '' }
  else return
  event.preventDefault()
}

/** A block from a spreadsheet goes over the cells from here on; rows are added as needed. */
function onPaste(event: ClipboardEvent, row: number, column: number) {
  const block = cellsOf(event.clipboardData?.getData('text/plain') ?? '')
  if (block.length === 1 && block[0]!.length === 1) return
  event.preventDefault()
  const width = Math.max(...block.map((line) => line.length))
  if (column + width > columns.value.length) {
    complain(
      new Error(
        `The block has ${width} columns, but from here on there are ${columns.value.length - column}. Add columns first.`,
      ),
    )
    return
  }
  block.forEach((line, down) => {
    const target = (rows.value[row + down] ??= empty())
    line.forEach((value, right) => (target.values[columns.value[column + right]!] = value))
  })
  void save().then((done) => done && say(`${block.length} rows were pasted.`, () => void props.edits.undo()))
}

async function importCsv(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const before = rows.value.length
  if (await props.edits.importRows(await file.text()))
    say(
      `${props.test.rows.length} rows came in and replaced the ${before} there were.`,
      () => void props.edits.undo(),
    )
}
</script>

<template>
  <div class="flex h-full min-h-0 flex-col" data-role="rows">
    <DesignRows v-model:open="designing" :test="test" :edits="edits" />
    <div class="flex items-center gap-2 px-3 py-1.5 text-sm">
      <template v-if="!fixed">
        <button class="button" :disabled="columns.length === 0" @click="addRow">Add a row</button>
        <form class="flex gap-1" @submit.prevent="addColumn">
          <input
            v-model="fresh"
            class="field w-32"
            placeholder="new column"
            aria-label="Name of the new column"
          />
          <button class="button">Add</button>
        </form>
        <button class="button" :disabled="columns.length === 0" @click="designing = true">
          Design variations
        </button>
        <button
          class="button"
          :disabled="rows.length === 0"
          title="Hold every value against the options and limits of its field"
          @click="$emit('check')"
        >
          Check the data
        </button>
        <button v-if="ticked" class="button" @click="removeTicked">Delete {{ ticked }} ticked</button>
      </template>
      <span class="ml-auto text-soft">{{ rows.length }} {{ rows.length === 1 ? 'row' : 'rows' }}</span>
      <label v-if="!fixed" class="button cursor-pointer"
        >Import CSV <input type="file" accept=".csv,.tsv,text/csv" class="sr-only" @change="importCsv"
      /></label>
      <a class="button" :href="`/api/tests/${test.id}/rows.csv`" download>Export CSV</a>
    </div>
    <p v-if="columns.length === 0" class="px-3 py-2 text-soft">
      No data yet. Press a value in a sentence and replace it by a column; the value becomes the first row.
    </p>
    <div v-else ref="place" class="min-h-0 flex-1 overflow-auto border-t border-line">
      <table class="border-collapse text-sm">
        <thead class="sticky top-0 z-10 bg-sunk">
          <tr>
            <th class="w-16 px-2 py-1 text-left">
              <input
                type="checkbox"
                :checked="ticked === rows.length && ticked > 0"
                :disabled="fixed"
                aria-label="Tick all rows"
                @change="tickAll"
              />
            </th>
            <th
              v-for="name in columns"
              :key="name"
              class="group min-w-36 border-l border-line px-2 py-1 text-left text-xs font-semibold"
            >
              <ColumnHead
                :name="name"
                :test="test"
                :edits="edits"
                :fixed="fixed"
                @remove="removeColumn(name)"
              />
            </th>
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
          <tr
            v-for="item in shown.getVirtualItems()"
            :key="item.index"
            class="h-[30px] border-t border-line"
            data-role="data-row"
          >
            <td class="px-2 whitespace-nowrap text-soft">
              <input
                v-model="rows[item.index]!.ticked"
                type="checkbox"
                :disabled="fixed"
                :aria-label="`Tick row ${item.index + 1}`"
                @change="save"
              />
              {{ item.index + 1 }}
              <span v-if="rows[item.index]!.designed" title="Designed" aria-label="designed">◇</span>
            </td>
            <td v-for="(name, column) in columns" :key="name" class="border-l border-line p-0">
              <input
                class="w-full bg-transparent px-2 py-1"
                :value="shownIn(item.index, column)"
                :readonly="fixed"
                :data-cell="`${item.index}:${column}`"
                :aria-label="`${name} of row ${item.index + 1}`"
                @input="type(item.index, column, $event)"
                @blur="settle(item.index, column)"
                @keydown="onKey($event, item.index, column)"
                @paste="onPaste($event, item.index, column)"
              />
            </td>
          </tr>
          <tr
            :style="{ height: `${shown.getTotalSize() - (shown.getVirtualItems().at(-1)?.end ?? 0)}px` }"
            aria-hidden="true"
          >
            <td />
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
