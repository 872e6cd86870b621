<script setup lang="ts">
import { ArrowLeft, ArrowRight, RotateCw, X } from '@lucide/vue'
import { ref, watch } from 'vue'

import type { Asked, StageWindow } from '@/features/live/useLive'

/** Where the stage is: its history, its address and its windows. */
const props = defineProps<{
  address: string
  windows: StageWindow[]
  /** Whether what is typed goes to the stage. */
  typing: boolean
}>()
/** Whether the stage has the room of the story as well. */
const full = defineModel<boolean>('full', { required: true })
const emit = defineEmits<{ send: [message: Asked]; open: [address: string] }>()

const address = ref(props.address)
const editing = ref(false)
watch(
  () => props.address,
  (now) => {
    if (!editing.value) address.value = now
  },
)

function open() {
  editing.value = false
  emit('open', address.value.trim() || '/')
}
</script>

<template>
  <div class="flex items-center gap-1 border-b border-line bg-sheet px-2 py-1">
    <button class="button-bare" aria-label="Back" @click="emit('send', { type: 'history', to: 'back' })">
      <ArrowLeft :size="15" />
    </button>
    <button
      class="button-bare"
      aria-label="Forward"
      @click="emit('send', { type: 'history', to: 'forward' })"
    >
      <ArrowRight :size="15" />
    </button>
    <button class="button-bare" aria-label="Reload" @click="emit('send', { type: 'history', to: 'reload' })">
      <RotateCw :size="15" />
    </button>
    <form class="flex min-w-0 flex-1 gap-1" @submit.prevent="open">
      <input
        v-model="address"
        class="field"
        aria-label="Address"
        name="address"
        spellcheck="false"
        @focus="editing = true"
        @blur="editing = false"
      />
      <button class="button">Open</button>
    </form>
    <span v-if="typing" class="shrink-0 px-1 text-xs text-soft" data-role="leave-stage"
      >keys go to the stage; <kbd class="font-sans font-semibold">Shift Esc</kbd> leaves it</span
    >
    <button
      class="button-bare shrink-0 px-1.5"
      :aria-pressed="full"
      :title="full ? 'Story and stage side by side' : 'Give the stage the room of the story as well'"
      @click="full = !full"
    >
      {{ full ? 'Show the story' : 'Full width' }}
    </button>
  </div>
  <div
    v-if="windows.length > 1"
    class="flex gap-1 border-b border-line bg-sunk px-2 py-1"
    role="group"
    aria-label="Windows"
  >
    <span
      v-for="(one, number) in windows"
      :key="one.id"
      class="chip max-w-60"
      :class="one.current && 'border-ink font-semibold'"
    >
      <button
        class="truncate"
        :aria-current="one.current"
        @click="emit('send', { type: 'window', id: one.id })"
      >
        {{ number + 1 }} · {{ one.title || one.address }}
      </button>
      <button
        :aria-label="`Close window ${number + 1}`"
        @click="emit('send', { type: 'close window', id: one.id })"
      >
        <X :size="12" />
      </button>
    </span>
  </div>
</template>
