<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, session } from '@/api/client'
import { useAct } from '@/shared/acting'
import Trouble from '@/shared/Trouble.vue'

import Door from './Door.vue'

/** The account of the first lead, by the address that the start of Lantern said. */
const route = useRoute()
const router = useRouter()
// Behind the “#”: no server and no proxy on the way ever sees it.
const token = route.hash.slice(1)
const form = ref({ name: '', username: '', password: '' })
const {
  act: make,
  busy,
  trouble,
} = useAct(() => ask(api.POST('/api/first', { body: { token, ...form.value } })), {
  inPlace: true,
  done: (me) => {
    session.me = me
    return router.push('/settings')
  },
})
</script>

<template>
  <Door title="Welcome to Lantern" @enter="make()">
    <p class="mb-4 text-sm text-soft">
      You are its first lead: who says where the application under test answers, and who else works here.
    </p>
    <p v-if="!token" class="mb-4 text-sm text-bad">
      This address is not whole: open the one that the start of Lantern said.
    </p>
    <label class="mb-3 block text-sm"
      >Your name
      <input v-model="form.name" class="field mt-1" name="name" autocomplete="name" required autofocus
    /></label>
    <label class="mb-3 block text-sm"
      >Sign-in name
      <input v-model="form.username" class="field mt-1" name="username" autocomplete="username" required
    /></label>
    <label class="mb-4 block text-sm"
      >Password, of at least eight characters
      <input
        v-model="form.password"
        class="field mt-1"
        name="password"
        type="password"
        autocomplete="new-password"
        required
      />
    </label>
    <Trouble :error="trouble" class="mb-4" />
    <button class="button button-main w-full justify-center py-1.5" :disabled="busy || !token">
      Make my account
    </button>
  </Door>
</template>
