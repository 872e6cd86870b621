<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { say } from '@/shared/notes'
import { readFile } from '@/shared/readFile'

import MatchRows from './MatchRows.vue'
import TakeChanges from './TakeChanges.vue'
import { vScrolls } from '@/shared/scrolls'

/** Taking rows in from a spreadsheet: which sheet and part, what it would change, then all or nothing. */
const props = defineProps<{ test: Test; edits: Edits; source: Record<string, string> }>()
const emit = defineEmits<{ close: [] }>()

const name = ref(props.source.name ?? '')
const content = ref('')
const sheet = ref(props.source.sheet ?? '')
const range = ref(props.source.range ?? '')
const header = ref(props.source.header ?? '')
const attach = ref(Boolean(props.source.name))
const match = ref(props.source.match ?? '')
const changes = ref<Shapes['RowChangeOut'][]>([])
const seen = ref<Shapes['TakeInOut'] | null>(null)
const trouble = ref<unknown>(null)
const busy = ref(false)
let asked = 0
let looking: Promise<void> = Promise.resolve()

const wanted = computed(() => ({
  name: name.value,
  content: content.value,
  sheet: sheet.value,
  range: range.value,
  header: header.value ? Number(header.value) : null,
  attach: attach.value,
  match: match.value,
}))

/** Ask what is in the file; what is asked last is what counts. */
function look(): Promise<void> {
  looking = name.value ? lookNow() : Promise.resolve()
  return looking
}
function preview(changes_from: number) {
  const body = { ...wanted.value, base: props.test.version, write: false, changes_from }
  return ask(api.POST('/api/tests/{id}/take-in', { params: { path: { id: props.test.id } }, body }))
}
async function lookNow() {
  const turn = ++asked
  trouble.value = null
  try {
    const got = await preview(0)
    if (turn !== asked) return
    seen.value = got
    changes.value = got.changes
    sheet.value = got.sheet
  } catch (error) {
    if (turn !== asked) return
    seen.value = null
    trouble.value = error
  }
}
async function more() {
  const turn = asked
  try {
    const got = await preview(changes.value.length)
    if (turn === asked) changes.value = [...changes.value, ...got.changes]
  } catch (error) {
    trouble.value = error
  }
}
async function choose(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  try {
    content.value = await readFile(file)
    name.value = file.name
    if (!props.source.name) sheet.value = range.value = header.value = match.value = ''
    await look()
  } catch (error) {
    trouble.value = error
  }
}
async function write() {
  busy.value = true
  await looking
  if (!seen.value) {
    busy.value = false
    return
  }
  // What was shown is what is done: the proposal would be another once the table has changed.
  const done = await props.edits.takeIn({ ...wanted.value, match: seen.value.match })
  busy.value = false
  if (!done) return
  say(
    `${seen.value.count} rows came in: ${seen.value.added} added, ${seen.value.changed} changed, ${seen.value.removed} removed.`,
    () => void props.edits.undo(),
  )
  emit('close')
}
onMounted(look)
</script>

<template>
  <Modal :open="true" title="Take in a spreadsheet" wide @update:open="emit('close')">
    <form class="flex flex-col gap-3 text-sm" @submit.prevent="write">
      <div class="flex items-end gap-3">
        <label class="button cursor-pointer" data-role="choose-spreadsheet"
          >{{ name ? 'Another file…' : 'Choose a file…' }}
          <input
            type="file"
            name="spreadsheet"
            accept=".csv,.tsv,.xlsx,.ods"
            class="sr-only"
            @change="choose"
        /></label>
        <span class="min-w-0 flex-1 truncate" :class="name ? 'font-medium' : 'text-soft'">{{
          name || 'CSV, XLSX or ODS'
        }}</span>
        <template v-if="name">
          <label v-if="(seen?.sheets.length ?? 0) > 1"
            >Sheet
            <select v-model="sheet" class="field w-auto" @change="((match = ''), look())">
              <option v-for="one in seen!.sheets" :key="one">{{ one }}</option>
            </select></label
          >
          <label
            >Range
            <input v-model="range" class="field w-24" placeholder="all" @change="((match = ''), look())"
          /></label>
          <label
            >Header in row
            <input
              v-model="header"
              class="field w-16"
              type="number"
              min="1"
              :placeholder="String(seen?.header ?? 1)"
              @change="((match = ''), look())"
          /></label>
        </template>
      </div>
      <Trouble :error="trouble" />
      <div v-if="seen" v-scrolls class="panel max-h-40 overflow-auto" data-role="preview">
        <table class="w-full text-left">
          <thead class="sticky top-0 bg-sunk text-xs">
            <tr>
              <th v-for="one in seen.columns" :key="one.name" class="px-2 py-1" :title="one.header">
                {{ one.name }} <span class="font-normal text-soft">{{ one.type }}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(row, place) in seen.rows" :key="place" class="border-t border-line">
              <td v-for="one in seen.columns" :key="one.name" class="max-w-48 truncate px-2 py-0.5">
                {{ row[one.name] }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <template v-if="seen">
        <MatchRows
          v-if="test.row_count"
          :model-value="match"
          :seen="seen"
          @update:model-value="((match = $event), look())"
        />
        <TakeChanges :seen="seen" :changes="changes" @more="more" />
      </template>
      <div class="flex items-center gap-2">
        <label class="flex items-center gap-2"
          ><input v-model="attach" type="checkbox" name="attach" /> Keep the file, to refresh the rows from it
          later</label
        >
        <button type="button" class="button ml-auto" @click="emit('close')">Cancel</button>
        <button class="button button-main" :disabled="!seen || busy">Take it in</button>
      </div>
    </form>
  </Modal>
</template>
