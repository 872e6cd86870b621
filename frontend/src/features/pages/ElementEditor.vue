<script setup lang="ts">
import ImpactButton from '@/features/impact/ImpactButton.vue'
import { Plus, Trash2 } from '@lucide/vue'
import { useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Ref } from 'vue'

import { ApiProblem, api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue, useElement } from '@/api/queries'
import PickOne from '@/shared/PickOne.vue'
import Draft from '@/shared/Draft.vue'
import Trouble from '@/shared/Trouble.vue'
import { keptClues } from './merging'
import { useAct } from '@/shared/acting'
import { useElementNames, usePageList } from '@/shared/lists'
import { say } from '@/shared/notes'

import ElementHistory from './ElementHistory.vue'
import VerdictMark from './VerdictMark.vue'
import { takeBack } from './undoing'
import { useElementDraft } from './useElementDraft'
import type { Repicked } from './useElementDraft'

/** What the stage says of a draft; without a stage only saved pages are asked. */
export interface Verdict {
  word: string
  fine: boolean
  why: string
  count: number
  shows: string[]
}

/** How an element is recognised: each fact a clue that is on or off, tried as it is changed. */
const props = defineProps<{
  id: string
  verdict?: Verdict | null
  live?: boolean
  repicked?: object | null
  /** The test in which it is edited: undoing there takes it back as well. */
  within?: number
}>()
const emit = defineEmits<{ try: [draft: Record<string, unknown>]; repick: []; done: []; gone: [] }>()

const queries = useQueryClient()
const query = useElement(computed(() => props.id))
const catalogue = useCatalogue()
const element = computed(() => query.data.value)
const editing = useElementDraft(() => props.id, element)
const { clues, extra, kind, changed, behind, draft } = editing
const tried = ref<Shapes['TriedAll'] | null>(null)
const trouble = ref('')
const asking = ref(false)
const twin = ref<Shapes['ElementNamed'] | null>(null)
const fixed = computed(() => !mayChange())
/** Other elements of the kind, with which it can be merged. */
function others(words: Ref<string>) {
  const found = useElementNames(words, kind)
  return { ...found, rows: computed(() => found.rows.value.filter((one) => one.id !== props.id)) }
}
/** The page that it belongs to, chosen of those that are known. */
const home = computed({
  get: () => ({ id: element.value?.page ?? '', name: element.value?.page || '(no title)' }),
  set: (one) => {
    if (one) void changeNow({ page: one.id })
  },
})
const lost = computed(() => tried.value?.pages.filter((page) => page.word !== 'finds it').length ?? 0)

watch(
  () => [props.id, element.value?.id, changed.value ? '' : element.value?.version],
  () => {
    if (element.value?.id === props.id) void attempt()
  },
  { immediate: true },
)
watch(
  () => props.repicked,
  (now) => {
    if (!now) return
    editing.takePicked(now as Repicked)
    touch()
  },
)

async function attempt() {
  emit('try', {
    id: props.id,
    name: 'draft',
    ...draft.value,
    seen: element.value?.body.seen,
    lookalikes: element.value?.body.lookalikes,
    ...extra.value,
  })
  try {
    tried.value = await ask(
      api.POST('/api/elements/{key}/try', { params: { path: { key: props.id } }, body: draft.value }),
    )
    trouble.value = ''
  } catch (error) {
    trouble.value = error instanceof ApiProblem ? `${error.message} ${error.hint}` : String(error)
  }
}
const soon = useDebounceFn(attempt, 250)
function touch() {
  editing.keep()
  asking.value = false
  void soon()
}
function takeStronger(stronger: Shapes['ClueRow'][]) {
  const wanted = stronger.map((one) => `${one.fact} ${one.operator} ${one.value}`)
  clues.value = clues.value.map((one) => ({
    ...one,
    on: wanted.includes(`${one.fact} ${one.operator} ${one.value}`),
  }))
  touch()
}

/** What the element goes by as somebody else saved it. */
const theirs = computed(() =>
  element.value?.clues
    .filter((one) => one.on)
    .map((one) => one.sentence)
    .join(' and '),
)
const another = computed(
  () =>
    (props.live && props.verdict ? props.verdict.word === 'finds another one' : false) ||
    tried.value?.pages.some((page) => page.word === 'finds another one'),
)

async function save(sure = false) {
  if (!element.value) return
  await attempt() // what is asked below must be about these very clues
  if (trouble.value) return
  if (another.value && !sure) {
    asking.value = true
    return
  }
  if (await change({ ...draft.value, spare: editing.spare(), ...extra.value }, editing.base.value))
    editing.takeOver()
  asking.value = false
}
/** What somebody saved meanwhile is not wiped out unless that is said: see `behind` below. */
async function saveMine() {
  if (element.value) editing.base.value = element.value.version
  await save()
}
const path = () => ({ params: { path: { key: props.id } } })
const stale = () => [['test'], ['pages'], ['element', props.id]]
const restoring = useAct(
  (body: Shapes['RestoreElement']) => ask(api.POST('/api/elements/{key}/restore', { ...path(), body })),
  { stale, done: put },
)
function restore(version: number) {
  if (!element.value) return
  void restoring.act({ version, base: element.value.version, place: props.within ?? null })
}
const changing = useAct(
  (body: Shapes['ElementChange']) => ask(api.PUT('/api/elements/{key}', { ...path(), body })),
  { stale, done: put },
)
const change = (parts: object, base: number) => changing.act({ base, place: props.within ?? null, ...parts })
/** Put what a change came to everywhere, and say in how many tests it is one. */
function put(now: Shapes['ElementFull']) {
  queries.setQueryData(['element', props.id], now)
  say(
    `“${now.name}” is changed${now.uses.length ? ` in ${now.uses.length} ${now.uses.length === 1 ? 'test' : 'tests'}` : ''}.`,
    now.act ? () => void takeBack(queries, now.act!) : undefined,
  )
}
const changeNow = (parts: object) => element.value && change(parts, element.value.version)
function giveUp() {
  editing.takeOver()
  void query.refetch()
}
const { act: merge } = useAct(
  (into: string) => ask(api.POST('/api/elements/{key}/merge', { ...path(), body: { into } })),
  {
    stale,
    done: (merged) => {
      const told = `“${element.value?.name}” was merged. ${keptClues(merged)}`
      say(told, () => void takeBack(queries, merged.act))
      twin.value = null
      emit('gone')
    },
  },
)
const { act: remove } = useAct(() => ask(api.DELETE('/api/elements/{key}', path())), {
  stale: [['pages']],
  done: ({ act }) => {
    say(`“${element.value?.name}” was deleted.`, () => void takeBack(queries, act))
    emit('gone')
  },
})
</script>

<template>
  <div class="flex h-full min-h-0 flex-col" data-role="element-editor">
    <Trouble :error="query.error.value" />
    <template v-if="element">
      <div class="flex flex-wrap items-center gap-2 border-b border-line px-3 py-1.5 text-sm">
        <Draft
          class="field w-44 font-semibold"
          :value="element.name"
          :disabled="fixed"
          aria-label="Name of the element"
          @save="$event.trim() && changeNow({ name: $event.trim() })"
        />
        <span class="text-soft">{{ kind }}</span>
        <VerdictMark
          v-if="live && verdict"
          :word="verdict.word"
          :count="verdict.count"
          :why="verdict.why"
          data-role="verdict"
        />
        <span
          v-if="tried?.strength"
          class="text-soft"
          :title="tried.strength.lost.length ? `Weakest when ${tried.strength.lost[0]}` : ''"
          data-role="strength"
        >
          strength {{ Math.round(tried.strength.share * 100) }} %
        </span>
        <span v-if="tried?.pages.length" class="text-soft" data-role="history">
          {{
            lost
              ? `lost on ${lost} of ${tried.pages.length} saved pages`
              : `found on all ${tried.pages.length} saved pages`
          }}
        </span>
        <span class="ml-auto flex gap-1.5">
          <button v-if="live && !fixed" class="button" @click="emit('repick')">Pick again</button>
          <span v-if="changed" class="chip self-center" data-role="unsaved">not saved</span>
          <button v-if="changed" class="button" @click="giveUp">Give up</button>
          <button
            v-if="!fixed"
            class="button button-main"
            :disabled="!changed || behind || !draft.clues.length || !!trouble"
            @click="save()"
          >
            Save
          </button>
        </span>
      </div>
      <p v-if="trouble" class="border-b border-bad bg-bad-paper px-3 py-1 text-sm" role="alert">
        {{ trouble }}
      </p>
      <div
        v-if="behind && !fixed"
        class="flex flex-wrap items-center gap-2 border-b border-bad bg-bad-paper px-3 py-1 text-sm"
        role="alert"
        data-role="element-conflict"
      >
        <span class="min-w-0 flex-1">
          Somebody saved this element while you were changing it. Theirs goes by
          <b>{{ theirs || 'nothing' }}</b>; yours stands below.
        </span>
        <button class="button" @click="giveUp">Take theirs</button>
        <button class="button button-bad" @click="saveMine">Save mine</button>
      </div>
      <p
        v-if="asking"
        class="flex items-center gap-3 border-b border-bad bg-bad-paper px-3 py-1 text-sm"
        role="alert"
      >
        With these clues another thing is found than before. Is that what you want?
        <button class="button" @click="asking = false">No</button>
        <button class="button button-bad" @click="save(true)">Yes, save it</button>
      </p>
      <div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_17rem] overflow-hidden">
        <div class="min-h-0 overflow-auto px-3 py-1">
          <div
            v-for="(clue, place) in clues"
            :key="place"
            class="grid grid-cols-[1.2rem_8rem_7.5rem_minmax(5rem,1fr)_auto_auto] items-center gap-1.5 py-0.5 text-sm"
            :class="!clue.on && 'text-soft'"
            data-role="clue"
          >
            <input
              v-model="clue.on"
              type="checkbox"
              :disabled="fixed"
              :aria-label="`${clue.fact} must hold`"
              @change="touch"
            />
            <input
              v-model="clue.fact"
              class="field"
              list="facts"
              :disabled="fixed"
              aria-label="Fact"
              @input="touch"
            />
            <select
              v-model="clue.operator"
              class="field"
              :disabled="fixed || clue.fact === 'position'"
              aria-label="Operator"
              @change="touch"
            >
              <option v-for="one in catalogue.data.value?.operators" :key="one">{{ one }}</option>
            </select>
            <input
              v-model="clue.value"
              class="field"
              :disabled="fixed"
              :aria-label="`Value of ${clue.fact}`"
              @input="touch"
            />
            <label
              class="flex items-center gap-1 text-xs whitespace-nowrap"
              title="Case, spacing and closing punctuation do not matter"
            >
              <input v-model="clue.loose" type="checkbox" :disabled="fixed" @change="touch" /> loose
            </label>
            <button
              class="button-bare"
              :disabled="fixed"
              :aria-label="`Remove ${clue.fact}`"
              @click="(clues.splice(place, 1), touch())"
            >
              <Trash2 :size="14" />
            </button>
          </div>
          <datalist id="facts">
            <option v-for="one in catalogue.data.value?.facts" :key="one">{{ one }}</option>
          </datalist>
          <button
            v-if="!fixed"
            class="button-bare"
            @click="clues.push({ fact: 'position', operator: 'is', value: '1', loose: false, on: false })"
          >
            <Plus :size="14" /> Clue
          </button>
        </div>
        <aside class="min-h-0 overflow-auto border-l border-line px-3 py-2 text-sm">
          <p v-if="verdict?.shows.length" class="mb-2 text-soft">
            On the stage: {{ verdict.shows.map((one) => `“${one}”`).join(', ') }}
          </p>
          <template v-if="tried?.strength">
            <p v-if="tried.strength.lost.length" class="mb-1">Weakest when {{ tried.strength.lost[0] }}.</p>
            <p v-if="tried.strength.stronger.length && !fixed" class="mb-2">
              Stronger ({{ Math.round((tried.strength.stronger_share ?? 0) * 100) }} %):
              {{ tried.strength.stronger.map((one) => one.sentence).join(' and ') }}
              <button class="button mt-1" @click="takeStronger(tried.strength.stronger)">Use these</button>
            </p>
          </template>
          <details v-if="tried?.pages.length" class="mb-2" :open="lost > 0">
            <summary class="cursor-pointer">Saved pages ({{ tried.pages.length }})</summary>
            <p v-for="page in tried.pages" :key="page.saved" class="flex items-center gap-2 py-0.5">
              <VerdictMark :word="page.word" :count="page.count" />
              <RouterLink v-if="page.run" :to="`/runs/${page.run}`" class="ml-auto underline"
                >run {{ page.run }}</RouterLink
              >
              <span v-else class="ml-auto text-soft">a still</span>
            </p>
          </details>
          <p v-else class="mb-2 text-soft">
            No page is saved yet on which these clues could be tried; every run saves some.
          </p>
          <p class="flex items-center gap-2 font-medium">
            Used by <ImpactButton kind="element" :of="id" class="ml-auto py-0" />
          </p>
          <p v-if="!element.uses.length" class="text-soft">No test uses it.</p>
          <ul>
            <li v-for="use in element.uses" :key="use.test" class="wrap-anywhere">
              {{ use.name }}:
              <template v-for="(step, place) in use.steps" :key="step">
                {{ place ? ', ' : ''
                }}<RouterLink
                  :to="{ path: `/tests/${use.test}`, query: { sentence: step } }"
                  class="underline"
                  >sentence {{ step }}</RouterLink
                ></template
              >
            </li>
          </ul>
          <ElementHistory
            :id="id"
            class="mt-2"
            :version="element.version"
            :fixed="fixed"
            @restore="restore"
          />
          <template v-if="!fixed">
            <label class="mt-3 block"
              >Page <PickOne v-model="home" class="mt-1" :list="usePageList" label="Page" />
            </label>
            <label class="mt-2 block"
              >The same as
              <span class="mt-1 flex gap-1"
                ><PickOne
                  v-model="twin"
                  :list="others"
                  label="The same as"
                  none="choose…"
                  :more="(one) => `(${one.page})`"
                />
                <button class="button" :disabled="!twin" @click="merge(twin!.id)">Merge</button></span
              >
            </label>
            <button v-if="!element.uses.length" class="button button-bad mt-3" @click="remove()">
              Delete
            </button>
          </template>
        </aside>
      </div>
    </template>
  </div>
</template>
