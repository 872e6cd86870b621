<script setup lang="ts">
import { X } from '@lucide/vue'

import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { dismiss, notes } from './notes'

const route = useRoute()
/** In the workbench the notes stay above the drawer, which is worked in. */
const above = computed(() => (/^\/tests\/\d/.test(route.path) ? 'bottom-[14.5rem]' : 'bottom-4'))
</script>

<template>
  <div
    class="pointer-events-none fixed right-4 z-50 flex w-96 flex-col gap-2"
    :class="above"
    aria-live="polite"
  >
    <div
      v-for="note in notes"
      :key="note.id"
      class="floating pointer-events-auto flex items-start gap-2 px-3 py-2"
      :class="note.kind === 'problem' ? 'border-bad bg-bad-paper' : ''"
      :role="note.kind === 'problem' ? 'alert' : 'status'"
    >
      <div class="min-w-0 flex-1 text-sm wrap-anywhere">
        {{ note.text }}
        <span v-if="note.hint" class="block text-soft">{{ note.hint }}</span>
      </div>
      <button v-if="note.undo" class="button" @click="(note.undo(), dismiss(note.id))">Undo</button>
      <button class="button-bare" aria-label="Dismiss" @click="dismiss(note.id)"><X :size="14" /></button>
    </div>
  </div>
</template>
