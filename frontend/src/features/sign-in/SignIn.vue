<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, session } from '@/api/client'
import { useAct } from '@/shared/acting'
import Trouble from '@/shared/Trouble.vue'

import Door from './Door.vue'

const username = ref('')
const password = ref('')
const route = useRoute()
const router = useRouter()

const {
  act: enter,
  busy,
  trouble: error,
} = useAct(
  () => ask(api.POST('/api/sign-in', { body: { username: username.value, password: password.value } })),
  {
    inPlace: true,
    done: (me) => {
      session.me = me
      const next = String(route.query.next ?? '/')
      return router.push(next.startsWith('/') && !next.startsWith('//') ? next : '/')
    },
  },
)
watch(error, (problem) => {
  if (problem) password.value = ''
})
</script>

<template>
  <Door title="Lantern" @enter="enter()">
    <label class="mb-3 block text-sm">
      Sign-in name
      <input
        v-model="username"
        class="field mt-1"
        name="username"
        autocomplete="username"
        required
        autofocus
      />
    </label>
    <label class="mb-4 block text-sm">
      Password
      <input
        v-model="password"
        class="field mt-1"
        name="password"
        type="password"
        autocomplete="current-password"
        required
      />
    </label>
    <Trouble :error="error" class="mb-4" />
    <button class="button button-main w-full justify-center py-1.5" :disabled="busy">Sign in</button>
  </Door>
</template>
