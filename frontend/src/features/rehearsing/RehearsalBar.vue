<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { Hand, X } from '@lucide/vue'
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'

import { session } from '@/api/client'
import type { Test } from '@/api/client'

import type { Path } from './places'
import type { Do, Rehearsing } from './useRehearsal'

/** The hand on a rehearsal: where it is, why it is held, and how it goes on. */
const props = defineProps<{ rehearsing: Rehearsing; test: Test; chosen: string }>()
const emit = defineEmits<{ show: [part: string] }>()
const { state, on, held, over, mine, spot, go } = props.rehearsing

interface Control {
  do: Do
  label: string
  keys: string
  title: string
  off?: boolean
}
const trouble = computed(() => (held.value ? (state.value?.failed ?? null) : null))
const searchable = computed(() =>
  ['not found', 'found several', 'not ready'].includes(trouble.value?.reason ?? ''),
)
const mid = computed(() => held.value && state.value?.mid)
const controls = computed<Control[]>(() => [
  held.value
    ? { do: 'play', label: 'Play on', keys: 'P', title: 'Go on until there is a reason to stop' }
    : {
        do: 'hold',
        label: 'Hold',
        keys: 'P',
        title: 'Stop as soon as possible, also in the middle of a wait',
      },
  {
    do: 'over',
    label: 'Next',
    keys: 'N',
    title: 'Do this sentence with all that is in it, hold at the next',
  },
  {
    do: 'into',
    label: 'In',
    keys: 'I',
    title: 'Go to the very next sentence, into a flow, a block or a round',
  },
  { do: 'out', label: 'Out', keys: 'O', title: 'Go on until it is out of this flow, block or repeat' },
  { do: 'skip', label: 'Skip', keys: 'X', title: 'Pass this sentence over', off: mid.value },
])
const off = (one: Control) => !mine.value || one.off || (one.do !== 'hold' && !held.value)

const REASONS: Record<string, string> = {
  asked: 'as asked',
  left: 'as nobody looked at it',
  stepped: '',
  breakpoint: 'at a breakpoint',
  pause: 'the story says to pause here',
  here: 'as far as you wanted',
  trouble: 'before the failure counts',
}
const reason = computed(() => {
  const { why = '', told = '' } = state.value ?? {}
  return [REASONS[why] ?? '', told].filter(Boolean).join(': ')
})
const number = computed(() => props.test.steps.findIndex((one) => one.id === spot.value?.step) + 1)
const status = computed(() => {
  if (!props.rehearsing.there.value) return 'Not begun'
  if (over.value) return 'Over'
  if (!held.value) return 'Playing'
  return mid.value ? 'Held in' : trouble.value ? 'Held at' : 'Held before'
})
const others = computed(
  () => state.value?.here.filter((one) => one.account !== state.value?.hand.account) ?? [],
)
const owner = computed(() => state.value?.hand.name ?? '')

const PACES: [string, string][] = [
  ['0', 'full speed'],
  ['0.5', '½ s a sentence'],
  ['1', '1 s a sentence'],
  ['3', '3 s a sentence'],
  ['by hand', 'by hand'],
]
const pace = computed({
  get: () => (state.value?.pace === null ? 'by hand' : String(state.value?.pace ?? 0)),
  set: (now: string) => props.rehearsing.pace(now === 'by hand' ? null : Number(now), light.value),
})
const light = computed({
  get: () => state.value?.light ?? true,
  set: (now: boolean) =>
    props.rehearsing.pace(state.value?.pace ?? (pace.value === 'by hand' ? null : 0), now),
})

/** The chosen sentence: inside a flow that is open in place, else of the story itself. */
const here = computed<Path | null>(
  () => props.rehearsing.target.value ?? (props.chosen ? { calls: [], step: props.chosen } : null),
)
/** What is asked for more seldom. */
const more = computed(() => {
  const { onTo, fromHere, send } = props.rehearsing
  const at = here.value
  return [
    { label: 'Play on to the chosen sentence (T)', off: !at, act: () => at && onTo(at) },
    { label: 'Go on from the chosen sentence (H)', off: !at, act: () => at && fromHere(at) },
    { label: 'Play this row from its start', off: false, act: () => fromHere({ calls: [], step: '' }) },
    ...others.value.map((one) => ({
      label: `Hand the controls to ${one.name}`,
      off: false,
      act: () => send({ type: 'give hand', account: one.account }),
    })),
  ]
})
const KEYS: Record<string, Do> = { n: 'over', i: 'into', o: 'out', x: 'skip', r: 'again', e: 'end' }
useEventListener('keydown', (event: KeyboardEvent) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !on.value || !mine.value || event.repeat) return
  if (
    (event.target as Element).closest(
      'input,textarea,select,[contenteditable=true],[role=dialog],[role=menu]',
    )
  )
    return
  const key = event.key.toLowerCase()
  if (key === 'p') void go(held.value ? 'play' : 'hold')
  else if (key === 'e') void go('end')
  else if (!held.value) return
  else if (key === 't' && here.value) void props.rehearsing.onTo(here.value)
  else if (key === 'h' && here.value) void props.rehearsing.fromHere(here.value)
  else if (key === 'r' && !trouble.value) return
  else if (KEYS[key]) void go(KEYS[key])
  else return
  event.preventDefault()
})
</script>

<template>
  <section
    class="border-b border-line bg-lit-paper px-3 py-1 text-sm text-lit-ink"
    aria-label="Rehearsal"
    :data-state="state?.state"
    :data-moment="state?.moment"
    data-role="rehearsal"
  >
    <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
      <p class="flex min-w-60 flex-1 items-baseline gap-2" role="status">
        <Hand :size="15" class="shrink-0 self-center" />
        <b class="whitespace-nowrap">{{ status }}</b>
        <span v-if="spot" class="min-w-0 truncate font-story text-ink" data-role="spot">
          <template v-if="number">{{ number }} · </template>{{ spot.sentence }}
        </span>
        <span v-if="over" class="truncate" data-role="ended">{{
          state?.ended || (state?.outcome === 'passed' ? 'it went well to its end.' : 'it failed.')
        }}</span>
        <span v-if="reason && held" class="shrink-0 truncate" data-role="reason">{{ reason }}</span>
      </p>
      <span v-for="one in spot?.within ?? []" :key="one" class="chip" data-role="within">{{ one }}</span>
      <span v-if="state?.row" class="chip" data-role="row">row {{ state.row }}</span>
      <div v-if="on" class="flex items-center gap-1" role="group" aria-label="Controls of the rehearsal">
        <button
          v-for="one in controls"
          :key="one.label"
          class="button px-2 py-0.5"
          :title="`${one.title} (${one.keys})`"
          :disabled="off(one)"
          :data-do="one.do"
          @click="go(one.do)"
        >
          {{ one.label }} <kbd class="font-sans text-xs text-soft">{{ one.keys }}</kbd>
        </button>
        <Menu v-if="held" as="div" class="relative">
          <MenuButton class="button px-2 py-0.5" :disabled="!mine">More</MenuButton>
          <MenuItems class="floating absolute right-0 z-20 mt-1 w-72 p-1 text-sm text-ink">
            <MenuItem v-for="one in more" :key="one.label" v-slot="{ active }" :disabled="one.off">
              <button
                class="w-full rounded px-2 py-1 text-left disabled:text-soft"
                :class="active && 'bg-sunk'"
                :disabled="one.off"
                @click="one.act"
              >
                {{ one.label }}
              </button>
            </MenuItem>
          </MenuItems>
        </Menu>
        <button
          class="button px-2 py-0.5"
          title="End the rehearsal; the stage stays as it is (E)"
          :disabled="!mine"
          data-do="end"
          @click="go('end')"
        >
          End <kbd class="font-sans text-xs text-soft">E</kbd>
        </button>
        <select v-model="pace" class="field w-auto py-0.5" aria-label="Pace" :disabled="!mine">
          <option v-for="[value, words] in PACES" :key="value" :value="value">{{ words }}</option>
        </select>
        <label
          class="flex items-center gap-1 whitespace-nowrap"
          title="Light up what is acted on before it is"
        >
          <input v-model="light" type="checkbox" :disabled="!mine" /> light
        </label>
        <span
          v-if="(state?.cost ?? 0) >= 0.1"
          class="text-xs whitespace-nowrap"
          title="What the pace and the light have cost; limits do not run meanwhile"
          data-role="cost"
          >+{{ state?.cost }} s</span
        >
      </div>
      <button v-else class="button-bare" aria-label="Close" @click="rehearsing.dismiss()">
        <X :size="15" />
      </button>
    </div>
    <p v-if="on && !mine" class="mt-1 flex items-center gap-2" data-role="watching">
      {{ owner }} has the controls; you look on.
      <button
        v-if="rehearsing.own"
        class="button px-2 py-0.5"
        title="Whose rehearsal it is may take the controls back"
        @click="rehearsing.send({ type: 'give hand', account: session.me?.account.id ?? 0 })"
      >
        Take the controls back
      </button>
      <a v-else class="button px-2 py-0.5" :href="`/tests/${test.id}`">Back to your own stage</a>
    </p>
    <div v-if="trouble" class="mt-1 rounded-md bg-bad-paper px-2 py-1 text-ink" data-role="trouble">
      <p class="wrap-anywhere">
        <span class="text-bad">{{ trouble.message }}</span> <span class="text-soft">{{ trouble.hint }}</span>
      </p>
      <p v-if="trouble.expected" class="text-soft">
        expected “{{ trouble.expected }}”, found “{{ trouble.found }}”
      </p>
      <p class="mt-1 flex flex-wrap gap-1">
        <button class="button px-2 py-0.5" :disabled="!mine" data-do="again" @click="go('again')">
          Try again <kbd class="font-sans text-xs text-soft">R</kbd>
        </button>
        <template v-if="trouble.element && searchable">
          <button class="button px-2 py-0.5" :disabled="!mine" data-role="why" @click="emit('show', 'why')">
            Why was it not found?
          </button>
        </template>
        <template v-if="trouble.element">
          <button
            class="button px-2 py-0.5"
            :disabled="!mine"
            data-role="which"
            @click="emit('show', 'which')"
          >
            Which one is it?
          </button>
        </template>
        <button
          class="button px-2 py-0.5"
          title="Let the failure take its course, as it would in a run"
          :disabled="!mine"
          data-do="let it fail"
          @click="go('let it fail')"
        >
          Let it fail
        </button>
      </p>
    </div>
    <div v-if="rehearsing.lacks.value" class="mt-1 rounded-md bg-sheet px-2 py-1 text-ink" data-role="lacks">
      <p v-for="one in rehearsing.lacks.value.missing" :key="one">{{ one }}</p>
      <p class="mt-1 flex gap-1">
        <button class="button px-2 py-0.5" @click="rehearsing.upTo(rehearsing.lacks.value!)">
          Play up to there first
        </button>
        <button class="button px-2 py-0.5" @click="rehearsing.fromHere(rehearsing.lacks.value!, true)">
          Go on from there all the same
        </button>
        <button class="button-bare" @click="rehearsing.leaveIt()">Leave it</button>
      </p>
    </div>
  </section>
</template>
