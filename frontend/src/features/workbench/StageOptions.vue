<script setup lang="ts">
import { nextTick, ref } from 'vue'

import type { Box, Said } from '@/features/live/useLive'

/** The open list of a native choice field, with the keys that lists of a browser have. */
type List = Extract<Said, { type: 'options' }>
defineProps<{ styleOf: (box: Box) => Record<'left' | 'top' | 'width' | 'height', string>; scale: number }>()
const emit = defineEmits<{ choose: [option: string] }>()
const list = defineModel<List | null>({ required: true })

const shown = ref<HTMLElement | null>(null)
/** Milliseconds within which letters are one word that is looked for. */
const ONE_WORD = 900
let searched = ''
let searchedAt = 0

/** Take a key: arrows, letters, Enter and Escape. */
function take(event: KeyboardEvent) {
  event.preventDefault()
  const open = list.value!
  const usable = open.options.map((one, n) => ({ ...one, n })).filter((one) => !one.disabled)
  const place = usable.findIndex(({ n }) => n === open.selected)
  const go = (to: number) => {
    const next = usable[Math.min(Math.max(to, 0), usable.length - 1)]
    if (next) list.value = { ...open, selected: next.n }
  }
  if (event.key === 'Escape' || event.key === 'Tab') list.value = null
  else if (event.key === 'Enter' || event.key === ' ') {
    const chosen = open.options[open.selected]
    if (chosen) emit('choose', chosen.text)
    else list.value = null
  } else if (event.key === 'ArrowDown') go(place + 1)
  else if (event.key === 'ArrowUp') go(place < 0 ? 0 : place - 1)
  else if (event.key === 'Home') go(0)
  else if (event.key === 'End') go(usable.length - 1)
  else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey) {
    searched = (event.timeStamp - searchedAt < ONE_WORD ? searched : '') + event.key.toLowerCase()
    searchedAt = event.timeStamp
    const found = usable.findIndex(({ text }) => text.toLowerCase().startsWith(searched))
    if (found >= 0) go(found)
  }
  void nextTick(() =>
    shown.value?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' }),
  )
}

defineExpose({ take })
</script>

<template>
  <ul
    v-if="list"
    ref="shown"
    class="floating absolute max-h-60 overflow-auto py-1"
    :style="{
      left: styleOf(list.box).left,
      top: `${(list.box.y + list.box.height) * scale}px`,
      minWidth: styleOf(list.box).width,
    }"
    role="listbox"
    aria-label="Options"
    @mousedown.stop
    @mouseup.stop
  >
    <li v-for="(option, number) in list.options" :key="number">
      <button
        class="w-full px-3 py-1 text-left text-sm hover:bg-sunk disabled:text-soft"
        role="option"
        :aria-selected="number === list.selected"
        :class="number === list.selected && 'bg-sunk font-semibold'"
        :disabled="option.disabled"
        @click="emit('choose', option.text)"
      >
        {{ option.text || '(empty)' }}
      </button>
    </li>
  </ul>
</template>
