<script setup lang="ts">
import { ref, watch } from 'vue'

import { api, ask, session } from '@/api/client'

import Modal from './Modal.vue'
import Trouble from './Trouble.vue'
import { useAct } from './acting'
import { say } from './notes'

/** Where one's own mails go. */
const open = defineModel<boolean>('open', { required: true })
const email = ref('')
watch(open, () => (email.value = session.me?.account.email ?? ''))
const {
  act: save,
  trouble,
  busy,
} = useAct(() => ask(api.PUT('/api/me/email', { body: { email: email.value } })), {
  inPlace: true,
  stale: [['people']],
  done: (now) => {
    if (session.me) session.me.account = now
    say(now.email ? `Mails go to ${now.email}.` : 'No mail goes to you.')
    open.value = false
  },
})
</script>

<template>
  <Modal v-model:open="open" title="Your mail address">
    <form class="flex flex-col gap-3" @submit.prevent="save()">
      <p class="text-soft">Plans say who gets mails about their runs. Without an address none goes to you.</p>
      <label
        >Mail address
        <input v-model="email" class="field mt-1" type="email" name="email" autocomplete="email" />
      </label>
      <Trouble :error="trouble" />
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="open = false">Leave it</button>
        <button class="button button-main" :disabled="busy">Save</button>
      </div>
    </form>
  </Modal>
</template>
