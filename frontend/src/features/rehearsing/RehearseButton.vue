<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { ChevronDown, Hand } from '@lucide/vue'
import { computed, ref } from 'vue'

import type { Test } from '@/api/client'
import { useTable } from '@/api/queries'

import type { Beginning } from './useRehearsal'

/**
 * Beginning a rehearsal: at once from its start, or of another row, or from where the stage is.
 * The stage is that of the test's environment: what is to run `elsewhere` is not rehearsed there.
 */
const props = defineProps<{ test: Test; chosen: string; disabled: boolean; elsewhere: boolean }>()
const emit = defineEmits<{ begin: [how: Beginning] }>()

const row = ref(1)
const open = ref(false)
const table = useTable(() => (props.test.row_count && (open.value || row.value > 1) ? props.test.id : 0))
const chosenRow = computed(() => table.data.value?.rows[row.value - 1])
const called = computed(() =>
  props.test.columns
    .map((column) => chosenRow.value?.values[column])
    .filter(Boolean)
    .slice(0, 3)
    .join(' · '),
)
const number = computed(() => props.test.steps.findIndex((step) => step.id === props.chosen) + 1)

const never = computed(() => props.disabled || props.elsewhere || props.test.steps.length === 0)
const told = computed(() =>
  props.elsewhere
    ? `The stage is at ${props.test.environment.name}: choose it as the environment to rehearse`
    : 'Play it on the stage, sentence by sentence if you like: it is held where something fails',
)

function begin(how: Omit<Beginning, 'row'>, close?: () => void) {
  close?.()
  emit('begin', { ...how, row: row.value > 1 ? chosenRow.value?.id : '' })
}
</script>

<template>
  <Popover as="div" class="relative flex">
    <button
      class="button rounded-r-none"
      data-role="rehearse"
      :title="told"
      :disabled="never"
      @click="begin({ fresh: true })"
    >
      <Hand :size="14" /> Rehearse
    </button>
    <PopoverButton
      class="button rounded-l-none border-l-0 px-1"
      aria-label="How to rehearse"
      :disabled="never"
      ><ChevronDown :size="14"
    /></PopoverButton>
    <PopoverPanel
      v-slot="{ close }"
      class="floating absolute top-full right-0 z-20 mt-1 flex w-72 flex-col gap-1 p-2 text-sm"
      data-role="how-to-rehearse"
      @vue:mounted="open = true"
      @vue:unmounted="open = false"
    >
      <label v-if="test.row_count" class="mb-1 flex items-center gap-2"
        >Row
        <input
          v-model.number="row"
          class="field w-20"
          type="number"
          min="1"
          :max="test.row_count"
          aria-label="Row to rehearse"
        />
        <span class="min-w-0 truncate text-soft" :title="called">{{ called }}</span>
      </label>
      <button class="button justify-start" @click="begin({ fresh: true }, close)">
        From its start, on a fresh stage
      </button>
      <button class="button justify-start" @click="begin({ fresh: true, hold: true }, close)">
        From its start, held at the first sentence
      </button>
      <button class="button justify-start" @click="begin({ fresh: false }, close)">
        From its start, on the stage as it is
      </button>
      <button
        class="button justify-start"
        :disabled="!number"
        @click="begin({ fresh: false, start: { calls: [], step: chosen } }, close)"
      >
        {{ number ? `From sentence ${number}, on the stage as it is` : 'From the chosen sentence' }}
      </button>
    </PopoverPanel>
  </Popover>
</template>
