<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { Plus } from '@lucide/vue'
import { useDebounce } from '@vueuse/core'
import { computed, nextTick, ref } from 'vue'

import type { Catalogue } from '@/api/client'
import { useFlowList } from '@/shared/lists'

import { SENTENCE } from './useStory'
import type { Dropped } from './useStory'

/** Adding a sentence by hand, a block, or a call of a flow; a few letters find each. */
const props = defineProps<{ catalogue: Catalogue; elements: number; self: string }>()
const emit = defineEmits<{
  add: [action: string]
  call: [flow: string, takes: { name: string; default: string }[]]
}>()

const words = ref('')
const flows = useFlowList(useDebounce(words, 200))
const box = ref<HTMLInputElement | null>(null)

interface Entry {
  key: string
  title: string
  help: string
  off: boolean
  dropped: Dropped
  act: () => void
}
const fits = (text: string) => text.toLowerCase().includes(words.value.trim().toLowerCase())
const groups = computed(() => {
  const actions = (block: boolean): Entry[] =>
    props.catalogue.actions
      .filter((one) => Boolean(one.block) === block && one.block !== 'flow' && fits(one.title))
      .map((one) => ({
        key: one.name,
        title: one.title,
        help: one.help,
        off: one.kinds !== null && props.elements === 0,
        dropped: { action: one.name },
        act: () => emit('add', one.name),
      }))
  const called: Entry[] = flows.rows.value
    .filter(({ flow }) => flow.id !== props.self && fits(flow.name))
    .map(({ flow }) => ({
      key: `flow ${flow.id}`,
      title: flow.name,
      help: flow.takes.map((one) => one.name).join(', '),
      off: false,
      dropped: { flow: flow.id, takes: flow.takes },
      act: () => emit('call', flow.id, flow.takes),
    }))
  return [
    { name: 'Sentences', entries: actions(false) },
    { name: 'Blocks', entries: actions(true) },
    { name: 'Flows', entries: called },
  ].filter((group) => group.entries.length)
})
/** What Enter takes: what begins with the letters before what only has them. */
const first = computed(() => {
  const usable = groups.value.flatMap((group) => group.entries).filter((one) => !one.off)
  const begun = words.value.trim().toLowerCase()
  return usable.find((one) => one.title.toLowerCase().startsWith(begun)) ?? usable[0]
})

function begin() {
  words.value = ''
  void nextTick(() => box.value?.focus())
}
</script>

<template>
  <Popover v-slot="{ close }" as="div" class="relative shrink-0">
    <PopoverButton class="button-bare px-1"><Plus :size="16" /> Sentence</PopoverButton>
    <PopoverPanel class="floating absolute right-0 w-64 p-1" @vue:mounted="begin">
      <input
        ref="box"
        v-model="words"
        class="field mb-1"
        type="search"
        placeholder="Find an action or a flow"
        aria-label="Find an action or a flow"
        @keydown.enter.prevent="first && (first.act(), close())"
      />
      <div class="max-h-96 overflow-auto">
        <template v-for="group in groups" :key="group.name">
          <p class="px-2 pt-1.5 text-xs font-semibold text-soft">{{ group.name }}</p>
          <button
            v-for="one in group.entries"
            :key="one.key"
            class="block w-full rounded px-2 py-1 text-left text-sm hover:bg-sunk disabled:text-soft"
            :title="`${one.help} Press it, or drag it behind a sentence.`.trim()"
            :disabled="one.off"
            :draggable="!one.off"
            @dragstart="$event.dataTransfer?.setData(SENTENCE, JSON.stringify(one.dropped))"
            @click="(one.act(), close())"
          >
            {{ one.title }}
          </button>
          <p v-if="group.name === 'Flows' && flows.more.value" class="px-2 py-1 text-sm text-soft">
            There are more: type a part of the name.
          </p>
        </template>
        <p v-if="groups.length === 0" class="p-3 text-center text-sm text-soft">Nothing has that name.</p>
      </div>
    </PopoverPanel>
  </Popover>
</template>
