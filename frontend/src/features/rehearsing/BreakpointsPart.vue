<script setup lang="ts">
import { X } from '@lucide/vue'
import { computed, ref } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import { vHeld } from '@/shared/held'

import type { Breakpoint, Breakpoints, Condition } from './useBreakpoints'

/** All breakpoints of a person in one place: searched, switched off and on, given conditions. */
const props = defineProps<{ breakpoints: Breakpoints; test: Test; catalogue: Catalogue }>()
const emit = defineEmits<{ choose: [step: string] }>()
const { list, off, put, remove, switchAll } = props.breakpoints

const words = ref('')
const here = ref(false)
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  return list.value.filter(
    (one) =>
      (!here.value || one.place === props.test.id || one.only_in === props.test.id) &&
      `${one.name} ${one.sentence} ${one.told}`.toLowerCase().includes(wanted),
  )
})
const keyOf = (one: Breakpoint) => `${one.place} ${one.step}`
const open = ref('')
const plain = ({ place, step, only_in, enabled, condition }: Breakpoint) => ({
  place,
  step,
  only_in,
  enabled,
  condition,
})
/** What was changed of breakpoints and is not answered yet: the next change goes on from there. */
const changing = new Map<string, ReturnType<typeof plain>>()
async function change(one: Breakpoint, more: Partial<ReturnType<typeof plain>>) {
  const now = { ...(changing.get(keyOf(one)) ?? plain(one)), ...more }
  changing.set(keyOf(one), now)
  await put(now)
  if (changing.get(keyOf(one)) === now) changing.delete(keyOf(one))
}
const setCondition = (one: Breakpoint, part: Partial<Condition>) =>
  change(one, { condition: { ...(changing.get(keyOf(one)) ?? one).condition, ...part } })
const number = (event: Event, least: number) =>
  Math.max(Math.round(Number((event.target as HTMLInputElement).value)) || least, least)
const text = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <div class="flex h-full min-h-0 flex-col text-sm" data-role="breakpoints">
    <div class="flex items-center gap-3 border-b border-line px-3 py-1">
      <input
        v-model="words"
        class="field max-w-56"
        type="search"
        placeholder="Search"
        aria-label="Search breakpoints"
      />
      <label class="flex items-center gap-1"
        ><input v-model="here" type="checkbox" /> of this test only</label
      >
      <span class="text-soft">{{ list.length }} in all, yours alone</span>
      <label class="ml-auto flex items-center gap-1"
        ><input
          type="checkbox"
          :checked="off"
          data-role="all-off"
          @change="switchAll(($event.target as HTMLInputElement).checked)"
        />
        switch all off for now</label
      >
    </div>
    <ul class="min-h-0 flex-1 overflow-auto" :class="off && 'opacity-60'">
      <li v-if="!list.length" class="px-3 py-2 text-soft">
        None yet. Press the number of a sentence, or B on a chosen one, and your rehearsals stop there.
      </li>
      <li v-else-if="!shown.length" class="px-3 py-2 text-soft">None has these words.</li>
      <li
        v-for="one in shown"
        :key="keyOf(one)"
        class="border-b border-line px-3 py-1"
        :data-point="one.step"
      >
        <div class="flex items-baseline gap-2">
          <input
            type="checkbox"
            :checked="one.enabled"
            :aria-label="`Breakpoint at ${one.sentence}`"
            @change="change(one, { enabled: !one.enabled })"
          />
          <span class="shrink-0 text-soft">{{ one.name }}, {{ one.number || 'gone' }}</span>
          <button
            class="min-w-0 flex-1 truncate text-left font-story hover:underline"
            @click="
              one.place === test.id
                ? emit('choose', one.step)
                : $router.push(`/tests/${one.place}?sentence=${one.number}`)
            "
          >
            {{ one.sentence }}
          </button>
          <span v-if="one.told" class="text-lit-ink" data-role="condition">{{ one.told }}</span>
          <span v-if="one.only_in_name" class="text-soft">only in {{ one.only_in_name }}</span>
          <button
            class="button px-1.5 py-0"
            :aria-expanded="open === keyOf(one)"
            @click="open = open === keyOf(one) ? '' : keyOf(one)"
          >
            When…
          </button>
          <button
            class="button-bare px-1 py-0"
            :aria-label="`Take out the breakpoint at ${one.sentence}`"
            @click="remove({ place: one.place, steps: [one.step] })"
          >
            <X :size="13" />
          </button>
        </div>
        <div v-if="open === keyOf(one)" class="mt-1 ml-6 flex flex-wrap items-center gap-2" data-role="when">
          <span>if</span>
          <input
            v-held="one.condition.value"
            class="field w-40"
            placeholder="${row.clay}"
            aria-label="Value of the condition"
            @change="setCondition(one, { value: text($event) })"
          />
          <select
            class="field w-auto"
            :value="one.condition.comparison"
            aria-label="Comparison of the condition"
            @change="setCondition(one, { comparison: text($event) })"
          >
            <option v-for="word in catalogue.comparisons" :key="word">{{ word }}</option>
          </select>
          <input
            v-held="one.condition.expected"
            class="field w-32"
            aria-label="Expected by the condition"
            @change="setCondition(one, { expected: text($event) })"
          />
          <label class="flex items-center gap-1"
            >from time
            <input
              v-held="one.condition.times"
              class="field w-16"
              type="number"
              min="1"
              aria-label="From which time on"
              @change="setCondition(one, { times: number($event, 1) })"
          /></label>
          <label class="flex items-center gap-1"
            >only row
            <input
              v-held="one.condition.row || ''"
              class="field w-16"
              type="number"
              min="0"
              placeholder="any"
              aria-label="Only in row"
              @change="setCondition(one, { row: number($event, 0) })"
          /></label>
          <label v-if="one.kind === 'flow'" class="flex items-center gap-1"
            ><input
              type="checkbox"
              :checked="one.only_in === test.id"
              @change="change(one, { only_in: one.only_in === test.id ? null : test.id })"
            />
            only when {{ test.name }} calls it</label
          >
        </div>
      </li>
    </ul>
  </div>
</template>
