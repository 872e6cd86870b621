<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import { useAct } from '@/shared/acting'

/** Making a new test that begins as another one does, up to a sentence. */
const props = defineProps<{ test: Test; step: string }>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const name = ref(`${props.test.name}, another ending`)

const { act: split } = useAct(
  () =>
    ask(
      api.POST('/api/tests/{id}/copy', {
        params: { path: { id: props.test.id } },
        body: { name: name.value, until: props.step },
      }),
    ),
  {
    stale: [['tests']],
    done: (made) => {
      emit('close')
      return router.push(`/tests/${made.id}`)
    },
  },
)
</script>

<template>
  <Modal open title="New test from the part up to here" @update:open="emit('close')">
    <form class="flex flex-col gap-3" @submit.prevent="split()">
      <label class="text-sm">Its name <input v-model="name" class="field mt-1" required /></label>
      <p class="text-sm text-soft">It begins with the same sentences and rows; record on from there.</p>
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button class="button button-main">Make the test</button>
      </div>
    </form>
  </Modal>
</template>
