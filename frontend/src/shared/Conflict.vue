<script setup lang="ts">
import { ref, watch } from 'vue'

import { clash } from '@/shared/conflicts'

import Modal from './Modal.vue'
import { vScrolls } from './scrolls'

/** Asks what is to stand where two people changed the same text; it stays until that is said. */
const text = ref('')
watch(clash, (now) => (text.value = now?.mine ?? ''), { immediate: true })
</script>

<template>
  <Modal :open="Boolean(clash)" title="Somebody else changed this meanwhile" @update:open="() => undefined">
    <form
      v-if="clash"
      class="flex flex-col gap-3 text-sm"
      data-role="conflict"
      @submit.prevent="clash.settle(text)"
    >
      <p class="text-soft">
        While you had <b v-if="clash.what">{{ clash.what }}</b><template v-else>it</template> open, it got
        another value. Nothing is lost: choose, or write what is to stand.
      </p>
      <div>
        <p class="mb-1 font-semibold">Theirs</p>
        <p
          v-scrolls
          class="panel max-h-40 overflow-auto px-2 py-1 whitespace-pre-wrap wrap-anywhere"
          data-role="theirs"
        >
          {{ clash.theirs || '(empty)' }}
        </p>
      </div>
      <label>
        <span class="font-semibold">Yours</span>
        <textarea v-model="text" class="field mt-1" :rows="Math.min(10, text.split('\n').length + 1)" />
      </label>
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="clash.settle(null)">Keep theirs</button>
        <button class="button button-main">Save yours</button>
      </div>
    </form>
  </Modal>
</template>
