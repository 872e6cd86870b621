<script setup lang="ts">
import { ref } from 'vue'

import { api, ask } from '@/api/client'

import Modal from './Modal.vue'
import Trouble from './Trouble.vue'
import { useAct } from './acting'
import { say } from './notes'

/** Changing one's own password. */
const open = defineModel<boolean>('open', { required: true })
const old = ref('')
const fresh = ref('')
const { act: change, trouble: error } = useAct(
  () => ask(api.POST('/api/me/password', { body: { old: old.value, new: fresh.value } })),
  {
    inPlace: true,
    done: () => {
      say('Your password is changed; everywhere else you are signed out.')
      open.value = false
      old.value = fresh.value = ''
    },
  },
)
</script>

<template>
  <Modal v-model:open="open" title="Change your password">
    <form class="flex flex-col gap-3" @submit.prevent="change()">
      <label>
        The one you have
        <input
          v-model="old"
          class="field"
          type="password"
          name="old"
          autocomplete="current-password"
          required
        />
      </label>
      <label>
        A new one, of at least eight characters
        <input
          v-model="fresh"
          class="field"
          type="password"
          name="new"
          autocomplete="new-password"
          required
        />
      </label>
      <Trouble :error="error" />
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="open = false">Leave it</button>
        <button class="button button-main">Change it</button>
      </div>
    </form>
  </Modal>
</template>
