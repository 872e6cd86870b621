<script setup lang="ts" generic="T extends { id: number | string; name: string }">
import { Combobox, ComboboxButton, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { ChevronDown } from '@lucide/vue'
import { useDebounce } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Ref } from 'vue'

import { intoView } from './intoView'
import type { Listed } from './lists'

/**
 * Choosing one of a list, however long it is, by letters of its name. `list` asks for those that
 * have some words; `none` says what choosing nothing means, where that can be chosen, `hint` what can
 * be typed, and `more` says more of one.
 */
const props = defineProps<{
  list: (words: Ref<string>) => Listed<T>
  label: string
  none?: string
  hint?: string
  more?: (one: T) => string
}>()
const chosen = defineModel<T | null>({ required: true })
const words = ref('')
const found = props.list(useDebounce(words, 200))
const options = computed<(T | null)[]>(() =>
  // Enter takes the first: what was looked for, where something was.
  props.none === undefined || words.value ? found.rows.value : [null, ...found.rows.value],
)
function begin(event: FocusEvent) {
  words.value = ''
  ;(event.target as HTMLInputElement).select()
}
const called = (one: unknown) => (one as T | null)?.name ?? props.none ?? ''
</script>

<template>
  <Combobox v-model="chosen" :nullable="none !== undefined" by="id" as="div" class="relative grow">
    <ComboboxInput
      class="field truncate pr-7"
      :aria-label="label"
      :placeholder="hint"
      autocomplete="off"
      :display-value="called"
      @focus="begin"
      @change="words = $event.target.value"
    />
    <ComboboxButton
      class="absolute inset-y-0 right-0 flex w-7 items-center justify-center text-soft"
      :aria-label="`Choose: ${label}`"
      ><ChevronDown :size="14"
    /></ComboboxButton>
    <ComboboxOptions
      class="floating absolute inset-x-0 z-10 mt-1 max-h-60 overflow-auto p-1 text-sm"
      @vue:mounted="intoView"
      @vue:updated="intoView"
    >
      <ComboboxOption
        v-for="one in options"
        :key="one?.id ?? 0"
        v-slot="{ active }"
        :value="one"
        as="template"
      >
        <li class="cursor-pointer truncate rounded px-2 py-1" :class="active && 'bg-sunk'">
          {{ called(one) }} <span v-if="one && more" class="text-soft">{{ more(one) }}</span>
        </li>
      </ComboboxOption>
      <li v-if="found.more.value" class="px-2 py-1 text-soft">There are more: type a part of the name.</li>
    </ComboboxOptions>
  </Combobox>
</template>
