<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Test } from '@/api/client'
import Modal from '@/shared/Modal.vue'

import type { Edits } from './useEdits'

/** The head of a column: renaming it everywhere, with the places shown first, and deleting it. */
const props = defineProps<{ name: string; test: Test; edits: Edits; fixed: boolean }>()
defineEmits<{ remove: [] }>()

const renaming = ref(false)
const fresh = ref('')
const places = computed(() =>
  props.test.steps.filter((step) =>
    Object.values(step.inputs).some((value) => value.includes(`\${row.${props.name}}`)),
  ),
)

function begin() {
  fresh.value = props.name
  renaming.value = true
}
async function rename() {
  if (await props.edits.edit({ do: 'rename column', column: props.name, name: fresh.value }))
    renaming.value = false
}
</script>

<template>
  <button
    v-if="!fixed"
    class="rounded hover:underline"
    :aria-label="`Rename column ${name}`"
    title="Rename it everywhere"
    @click="begin"
  >
    {{ name }}
  </button>
  <template v-else>{{ name }}</template>
  <button
    v-if="!fixed"
    class="ml-1 text-soft opacity-0 group-hover:opacity-100 focus:opacity-100"
    :aria-label="`Delete column ${name}`"
    @click="$emit('remove')"
  >
    ×
  </button>
  <Modal v-model:open="renaming" :title="`Rename the column “${name}”`">
    <form class="flex flex-col gap-3 text-sm font-normal" @submit.prevent="rename">
      <label>New name <input v-model="fresh" class="field mt-1" name="rename" required /></label>
      <div v-if="places.length">
        <p class="text-soft">
          {{ places.length === 1 ? 'One sentence uses it' : `${places.length} sentences use it` }} and will
          use the new name:
        </p>
        <ul class="mt-1 max-h-48 overflow-auto">
          <li v-for="step in places" :key="step.id" class="truncate font-story">{{ step.sentence }}</li>
        </ul>
      </div>
      <p v-else class="text-soft">No sentence uses it yet.</p>
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="renaming = false">Cancel</button>
        <button class="button button-main">Rename</button>
      </div>
    </form>
  </Modal>
</template>
