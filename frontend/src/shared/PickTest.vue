<script setup lang="ts">
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { useDebounce } from '@vueuse/core'
import { computed, ref } from 'vue'

import { useTestList } from './lists'
import type { Named } from './lists'

/** Choosing a test by letters of its name; `none` says what choosing no test means. */
const props = defineProps<{ none: string }>()
const test = defineModel<Named | null>({ required: true })
const words = ref('')
const tests = useTestList(useDebounce(words, 200), ref(''), ref('name'))
const options = computed<(Named | null)[]>(() => [null, ...tests.rows.value])
const called = (one: unknown) => (one as Named | null)?.name ?? props.none
</script>

<template>
  <Combobox v-model="test" nullable by="id" as="div" class="relative grow">
    <ComboboxInput
      class="field"
      aria-label="Test"
      autocomplete="off"
      :display-value="called"
      @focus="($event.target as HTMLInputElement).select()"
      @change="words = $event.target.value"
    />
    <ComboboxOptions class="floating absolute inset-x-0 z-10 mt-1 max-h-60 overflow-auto p-1 text-sm">
      <ComboboxOption
        v-for="one in options"
        :key="one?.id ?? 0"
        v-slot="{ active }"
        :value="one"
        as="template"
      >
        <li class="cursor-pointer truncate rounded px-2 py-1" :class="active && 'bg-sunk'">
          {{ called(one) }}
        </li>
      </ComboboxOption>
    </ComboboxOptions>
  </Combobox>
</template>
