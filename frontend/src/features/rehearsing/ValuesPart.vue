<script setup lang="ts">
import { Plus, X } from '@lucide/vue'
import { computed, ref } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import type { Shapes } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'

import type { Rehearsing, Watch } from './useRehearsal'

/** The values in reach of the sentence at which it is held, what they were, and what is watched. */
const props = defineProps<{ rehearsing: Rehearsing; test: Test; catalogue: Catalogue; edits: Edits }>()
type Value = Shapes['ValueSaid']
const { values, watches, held, mine, state, setValue, watch } = props.rehearsing

const words = ref('')
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  return (values.value?.values ?? []).filter((one) =>
    `${one.source} ${one.name} ${one.value}`.toLowerCase().includes(wanted),
  )
})
const editing = ref('')
const typed = ref('')
const keyOf = (one: Value) => `${one.source}.${one.name}`
function begin(one: Value) {
  if (one.hidden || !held.value || !mine.value) return
  editing.value = keyOf(one)
  typed.value = one.value
}
function save(one: Value) {
  if (editing.value !== keyOf(one)) return
  editing.value = ''
  if (typed.value !== one.value) setValue(one.source, one.name, typed.value)
}
/** Whether a changed value can be kept: in the row of the table that it came from. */
const keepable = (one: Value) =>
  one.changed && one.source === 'row' && state.value?.row_id && !props.rehearsing.spot.value?.flow
async function keep(one: Value) {
  const cell = { row: state.value!.row_id, column: one.name, value: one.value }
  await props.edits.edit({ do: 'set cells', cells: [cell] })
}
const called = (one: Value) => (one.source === 'made up' ? 'made up' : one.name)

const came = computed(() => new Map(values.value?.watches.map((one) => [one.id, one])))
const elementName = (id = '') => props.test.elements.find((one) => one.id === id)?.name ?? 'an element'
const watchWords = (one: Watch) => one.expression || `${one.property} of ${elementName(one.element)}`
const expression = ref('')
const element = ref('')
const property = ref('text')
function add() {
  const id = crypto.randomUUID().slice(0, 8)
  if (expression.value.trim()) watch([...watches.value, { id, expression: expression.value.trim() }])
  else if (element.value) watch([...watches.value, { id, element: element.value, property: property.value }])
  expression.value = ''
}
const pin = (one: Value) =>
  watch([...watches.value, { id: crypto.randomUUID().slice(0, 8), expression: `\${${keyOf(one)}}` }])
const drop = (id: string) => watch(watches.value.filter((one) => one.id !== id))
</script>

<template>
  <div class="grid h-full min-h-0 grid-cols-[3fr_2fr] text-sm">
    <section class="flex min-h-0 flex-col border-r border-line" aria-label="Values in reach">
      <div class="flex items-center gap-2 border-b border-line px-3 py-1">
        <b>Values in reach</b>
        <input
          v-model="words"
          class="field ml-auto max-w-48"
          type="search"
          placeholder="Search"
          aria-label="Search values"
        />
      </div>
      <div class="min-h-0 flex-1 overflow-auto">
        <p v-if="!values" class="px-3 py-2 text-soft">They show as soon as the rehearsal is held.</p>
        <table v-else class="w-full">
          <tbody>
            <tr
              v-for="one in shown"
              :key="keyOf(one)"
              class="border-b border-line align-baseline"
              :class="one.changed && 'bg-lit-paper'"
              :data-value="keyOf(one)"
            >
              <td class="w-24 px-3 py-0.5 text-soft">{{ one.source }}</td>
              <td class="w-40 py-0.5 pr-2 wrap-anywhere" :title="one.what">{{ called(one) }}</td>
              <td class="py-0.5 pr-2">
                <input
                  v-if="editing === keyOf(one)"
                  v-model="typed"
                  class="field"
                  :aria-label="`Value of ${one.name}`"
                  @vue:mounted="$event.el.focus()"
                  @keydown.enter="save(one)"
                  @keydown.esc="editing = ''"
                  @blur="save(one)"
                />
                <button
                  v-else
                  class="w-full rounded px-1 text-left wrap-anywhere whitespace-pre-wrap enabled:hover:bg-sunk"
                  :disabled="one.hidden || !held || !mine"
                  :title="
                    one.hidden ? 'A secret: nobody can read it' : 'Press to change it for this rehearsal'
                  "
                  @click="begin(one)"
                >
                  {{ one.value || '(empty)' }}
                </button>
                <span v-if="one.before.length" class="text-xs text-soft" data-role="history">
                  was
                  <template v-for="(was, n) in one.before.slice(-3).reverse()" :key="n"
                    ><span :title="`until: ${was.sentence}`">“{{ was.value }}”</span
                    >{{ n < Math.min(one.before.length, 3) - 1 ? ', ' : '' }}</template
                  >
                </span>
              </td>
              <td class="py-0.5 pr-2 text-right whitespace-nowrap">
                <span v-if="one.changed" class="text-xs text-lit-ink">changed</span>
                <button v-if="keepable(one)" class="button ml-1 px-1.5 py-0" @click="keep(one)">
                  Keep in the table
                </button>
                <button
                  v-if="one.source !== 'made up'"
                  class="button-bare px-1 py-0 text-xs"
                  title="Watch it"
                  :aria-label="`Watch ${one.name}`"
                  @click="pin(one)"
                >
                  watch
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <section class="flex min-h-0 flex-col" aria-label="Watched">
      <form class="flex flex-wrap items-center gap-1 border-b border-line px-3 py-1" @submit.prevent="add">
        <input
          v-model="expression"
          class="field max-w-48 flex-1"
          placeholder="${row.clay} is Raku"
          title="A value with names in it, or two that are compared: ${kept.price} is at least 20"
          aria-label="Expression to watch"
        />
        <template v-if="!expression">
          <select v-model="element" class="field w-32" aria-label="Element to watch">
            <option value="">an element…</option>
            <option v-for="one in test.elements" :key="one.id" :value="one.id">{{ one.name }}</option>
          </select>
          <select v-model="property" class="field w-28" aria-label="Property to watch">
            <option v-for="one in catalogue.properties" :key="one">{{ one }}</option>
          </select>
        </template>
        <button class="button px-2 py-0.5" :disabled="!expression.trim() && !element">
          <Plus :size="13" /> Watch
        </button>
      </form>
      <ul class="min-h-0 flex-1 overflow-auto">
        <li v-if="!watches.length" class="px-3 py-2 text-soft">
          What is watched is read anew each time the rehearsal is held.
        </li>
        <li
          v-for="one in watches"
          :key="one.id"
          class="flex items-baseline gap-2 border-b border-line px-3 py-0.5"
          data-role="watch"
        >
          <span class="min-w-0 flex-1 truncate" :title="watchWords(one)">{{ watchWords(one) }}</span>
          <b v-if="came.get(one.id) && !came.get(one.id)!.wrong" class="wrap-anywhere">{{
            came.get(one.id)!.value || '(empty)'
          }}</b>
          <span v-else class="text-odd">{{ came.get(one.id)?.wrong ?? '…' }}</span>
          <button
            class="button-bare px-1 py-0"
            :aria-label="`Watch ${watchWords(one)} no more`"
            @click="drop(one.id)"
          >
            <X :size="12" />
          </button>
        </li>
      </ul>
    </section>
  </div>
</template>
