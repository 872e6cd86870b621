<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { Tag, X } from '@lucide/vue'
import { computed, ref } from 'vue'

import { useLabels } from '@/api/queries'

import { intoView } from './intoView'

/** The labels of a test: all of them, one more, one less. */
const props = defineProps<{ labels: string[]; of: string; fixed: boolean }>()
const emit = defineEmits<{ add: [label: string]; remove: [label: string] }>()
const known = useLabels()
const words = ref('')

const tidied = computed(() => words.value.trim().replace(/\s+/g, ' '))
const there = computed(() => new Set(props.labels.map((one) => one.toLowerCase())))
/** Labels of other tests that this one has not, those with the typed letters. */
const others = computed(() =>
  Object.keys(known.data.value?.labels ?? {})
    .filter((one) => !there.value.has(one.toLowerCase()))
    .filter((one) => one.toLowerCase().includes(tidied.value.toLowerCase()))
    .slice(0, 12),
)
function add(label: string) {
  if (label && !there.value.has(label.toLowerCase())) emit('add', label)
  words.value = ''
}
</script>

<template>
  <Popover class="relative shrink-0">
    <PopoverButton
      class="button-bare max-w-36"
      data-role="labels"
      :aria-label="labels.length ? `${labels.join(', ')}: labels of ${of}` : `Label ${of}`"
      :title="labels.join(', ') || 'Labels: by them tests are found and planned'"
      ><Tag :size="14" class="shrink-0" aria-hidden="true" />
      <span class="truncate text-sm">{{ labels.join(', ') || 'Label' }}</span></PopoverButton
    >
    <PopoverPanel class="floating absolute right-0 z-20 mt-1 w-72 p-3 text-sm" @vue:mounted="intoView">
      <ul v-if="labels.length" class="mb-2 flex flex-wrap gap-1" data-role="own-labels">
        <li v-for="one in labels" :key="one" class="chip max-w-full">
          <span class="truncate">{{ one }}</span>
          <button v-if="!fixed" :aria-label="`Take off the label ${one}`" @click="emit('remove', one)">
            <X :size="12" />
          </button>
        </li>
      </ul>
      <p v-else class="mb-2 text-soft">None yet. By labels tests are found, and planned together.</p>
      <template v-if="!fixed">
        <form class="flex gap-2" @submit.prevent="add(tidied)">
          <input
            v-model="words"
            class="field"
            maxlength="40"
            aria-label="A label"
            placeholder="such as nightly"
          />
          <button class="button" :disabled="!tidied">Add</button>
        </form>
        <ul v-if="others.length" class="mt-2 flex flex-wrap gap-1" aria-label="Labels of other tests">
          <li v-for="one in others" :key="one">
            <button class="chip text-soft hover:border-ink hover:text-ink" @click="add(one)">
              {{ one }}
            </button>
          </li>
        </ul>
      </template>
    </PopoverPanel>
  </Popover>
</template>
