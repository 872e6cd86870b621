<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Shapes } from '@/api/client'
import { vHeld } from '@/shared/held'

/** Where each part of a defect goes in a tracker's items, and what it calls states and weights. */
const map = defineModel<Shapes['FieldMapShape']>({ required: true })
const props = defineProps<{ parts: string[]; words: Record<string, string[]> }>()

const TITLES: Record<string, string> = {
  description: 'all texts in one',
  fixed_in: 'fixed in',
  address: 'page in Lantern',
  owner: 'who has it',
  found: 'what was found',
}
const called = (part: string) => TITLES[part] ?? part

/** A copy with a value at a name, or without that name where the value is empty. */
function withOne(all: Record<string, string> | undefined, name: string, value: string) {
  const others = Object.entries(all ?? {}).filter(([one]) => one !== name)
  return Object.fromEntries(value.trim() ? [...others, [name, value.trim()]] : others)
}
function setPath(part: string, path: string) {
  map.value = { ...map.value, fields: withOne(map.value.fields, part, path) }
}
function setWord(part: string, ours: string, theirs: string) {
  const words = withOne(map.value.words?.[part], ours, theirs)
  map.value = { ...map.value, words: { ...map.value.words, [part]: words } }
}
const back = computed(() => Object.entries(map.value.back ?? {}))
const fresh = ref({ theirs: '', ours: '' })
function setBack(theirs: string, ours: string) {
  map.value = { ...map.value, back: withOne(map.value.back, theirs, ours) }
}
function addBack() {
  if (!fresh.value.theirs.trim() || !fresh.value.ours) return
  setBack(fresh.value.theirs.trim(), fresh.value.ours)
  fresh.value = { theirs: '', ours: '' }
}
const fixed = computed(() =>
  Object.keys(map.value.fixed ?? {}).length ? JSON.stringify(map.value.fixed) : '',
)
const wrong = ref('')
function setFixed(text: string) {
  wrong.value = ''
  try {
    const value: unknown = text.trim() ? JSON.parse(text) : {}
    if (typeof value !== 'object' || value === null || Array.isArray(value)) throw new Error()
    map.value = { ...map.value, fixed: value as Record<string, unknown> }
  } catch {
    wrong.value = 'That is no JSON object, such as {"project": "KILN"}.'
  }
}
const typed = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <details class="rounded-md border border-line px-3 py-2" data-role="field-map">
    <summary class="cursor-pointer">
      Fields and words <span class="text-soft">- {{ Object.keys(map.fields).length }} parts are told</span>
    </summary>
    <div class="mt-3 grid gap-x-8 gap-y-4 lg:grid-cols-2">
      <fieldset>
        <legend class="mb-1 font-semibold">Where each part goes</legend>
        <p class="mb-2 text-soft">A path such as item.title; what has none is not told.</p>
        <label
          v-for="part in props.parts"
          :key="part"
          class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
          >{{ called(part) }}
          <input
            v-held="map.fields[part] ?? ''"
            class="field py-0.5"
            :name="`path-${part}`"
            placeholder="not told"
            @change="setPath(part, typed($event))"
        /></label>
      </fieldset>
      <div class="flex flex-col gap-4">
        <fieldset v-for="(ours, part) in words" :key="part">
          <legend class="mb-1 font-semibold">Its words for the {{ part }}</legend>
          <label
            v-for="word in ours"
            :key="word"
            class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
            >{{ word }}
            <input
              v-held="map.words?.[part]?.[word] ?? ''"
              class="field py-0.5"
              :name="`word-${part}-${word}`"
              :placeholder="word"
              @change="setWord(part, word, typed($event))"
          /></label>
        </fieldset>
        <fieldset>
          <legend class="mb-1 font-semibold">What its states mean here</legend>
          <label
            v-for="[theirs, ours] in back"
            :key="theirs"
            class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
            ><span class="truncate" :title="theirs">{{ theirs }}</span>
            <select class="field py-0.5" :value="ours" @change="setBack(theirs, typed($event))">
              <option v-for="one in words.state" :key="one">{{ one }}</option>
              <option value="">nothing</option>
            </select></label
          >
          <div class="grid grid-cols-[10rem_1fr] gap-2">
            <input v-model="fresh.theirs" class="field py-0.5" aria-label="Another state there" />
            <select
              v-model="fresh.ours"
              class="field py-0.5"
              aria-label="What it means here"
              @change="addBack()"
            >
              <option value="" disabled>means …</option>
              <option v-for="one in words.state" :key="one">{{ one }}</option>
            </select>
          </div>
        </fieldset>
        <fieldset>
          <legend class="mb-1 font-semibold">What else</legend>
          <label class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
            >in every new item
            <input
              v-held="fixed"
              class="field py-0.5"
              name="fixed"
              placeholder='{"project": "KILN"}'
              @change="setFixed(typed($event))"
          /></label>
          <p v-if="wrong" class="text-odd" role="alert">{{ wrong }}</p>
          <label class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
            >its id in an answer <input v-model="map.key" class="field py-0.5" required
          /></label>
          <label class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
            >its page in an answer <input v-model="map.link" class="field py-0.5" required
          /></label>
          <label class="mb-1 grid grid-cols-[10rem_1fr] items-center gap-2"
            >text of a comment <input v-model="map.said" class="field py-0.5" required
          /></label>
        </fieldset>
      </div>
    </div>
  </details>
</template>
