<script setup lang="ts">
import { onMounted, ref } from 'vue'

import type { StageDialog } from '@/features/live/useLive'

/** A browser dialog of the page under test, which no picture can show. */
const props = defineProps<{ dialog: StageDialog }>()
const emit = defineEmits<{ answer: [accept: boolean, text: string] }>()
const text = ref(props.dialog.default)
const ok = ref<HTMLButtonElement | null>(null)
onMounted(() => ok.value?.focus())
</script>

<template>
  <div
    class="absolute inset-0 flex items-start justify-center bg-black/30 pt-10"
    @mousedown.stop
    @mouseup.stop
  >
    <form
      class="floating w-96 p-4"
      role="alertdialog"
      aria-label="Dialog of the page"
      @submit.prevent="emit('answer', true, text)"
    >
      <p class="mb-1 text-xs text-soft">The page says</p>
      <p class="mb-3 wrap-anywhere whitespace-pre-wrap">{{ dialog.message }}</p>
      <input v-if="dialog.type === 'prompt'" v-model="text" class="field mb-3" aria-label="Answer" />
      <div class="flex justify-end gap-2">
        <button
          v-if="dialog.type !== 'alert'"
          type="button"
          class="button"
          @click="emit('answer', false, '')"
        >
          Cancel
        </button>
        <button ref="ok" class="button button-main">OK</button>
      </div>
    </form>
  </div>
</template>
