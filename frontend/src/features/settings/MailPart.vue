<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { ZONES } from '@/shared/zones'

import SentLog from './SentLog.vue'

/** The server that takes mails, and what was sent. For leads. */
type Server = Shapes['MailServerIn']
const queries = useQueryClient()
const key = ['mail', 'server']
const query = useQuery({ queryKey: key, queryFn: () => ask(api.GET('/api/mail-server')) })
const server = computed(() => query.data.value)
/** What is typed and not saved yet. */
const edited = ref<Server | null>(null)
const form = computed<Server | undefined>(() => {
  const now = server.value
  if (edited.value || !now) return edited.value ?? undefined
  const { enabled, host, port, security, username, sender, digest_at, zone } = now
  const on = enabled || !now.known
  return { enabled: on, host, port, security, username, sender, digest_at, zone, password: null }
})
function set(part: Partial<Server>) {
  edited.value = { ...form.value!, ...part }
}
const text = (event: Event) => (event.target as HTMLInputElement).value

const {
  act: save,
  trouble,
  busy,
} = useAct(() => ask(api.PUT('/api/mail-server', { body: form.value! })), {
  inPlace: true,
  done: (now) => {
    queries.setQueryData(key, now)
    edited.value = null
    say('Saved.')
  },
})
const { act: tryOut, trouble: untried } = useAct(() => ask(api.POST('/api/mail-server/try')), {
  inPlace: true,
  stale: [['mail', 'log']],
  done: (one) => say(`A mail is on its way to ${one.address}.`),
})

const log = useQuery({
  queryKey: ['mail', 'log'],
  queryFn: () => ask(api.GET('/api/mails')),
  refetchInterval: 3000,
})
const { act: again } = useAct(
  (id: number) => ask(api.POST('/api/mails/{id}/again', { params: { path: { id } } })),
  { stale: [['mail', 'log']] },
)
const messages = computed(() =>
  (log.data.value?.mails ?? []).map((one) => ({
    ...one,
    head: one.person,
    more: one.subject || (one.kind === 'digest' ? 'the mail of the day' : ''),
  })),
)
const SECURITIES = { none: 'none', starttls: 'STARTTLS', tls: 'TLS' } as const
</script>

<template>
  <section aria-label="Mail" data-role="mail">
    <h2 class="mb-2 font-semibold">Mail</h2>
    <p class="mb-3 text-soft">
      Plans say who is told of their runs. Mails that the server does not take are tried again for some hours.
    </p>
    <Trouble :error="query.error.value" />
    <div v-if="form && server" class="panel text-sm">
      <p v-if="server.stand_in" class="border-b border-line px-4 py-2 text-soft">
        Mails go to the server of the demo, which sends none on:
        <a class="underline" :href="server.shown" target="_blank" rel="noreferrer">look at them</a>.
      </p>
      <form class="flex flex-col gap-3 p-4" @submit.prevent="save()">
        <div class="flex flex-wrap gap-3">
          <label class="flex-[3]"
            >Server
            <input
              class="field mt-1"
              name="mail-host"
              required
              placeholder="mail.example"
              :value="form.host"
              @input="set({ host: text($event) })"
          /></label>
          <label class="w-24"
            >Port
            <input
              class="field mt-1"
              name="mail-port"
              type="number"
              min="1"
              max="65535"
              required
              :value="form.port"
              @input="set({ port: Number(text($event)) })"
          /></label>
          <label class="w-32"
            >Security
            <select
              class="field mt-1"
              name="mail-security"
              :value="form.security"
              @change="set({ security: text($event) as Server['security'] })"
            >
              <option v-for="(words, one) in SECURITIES" :key="one" :value="one">{{ words }}</option>
            </select></label
          >
          <label class="flex-[2]"
            >Sign in as
            <input
              class="field mt-1"
              name="mail-username"
              autocomplete="off"
              placeholder="nobody"
              :value="form.username"
              @input="set({ username: text($event) })"
          /></label>
          <label class="flex-[2]"
            >Password
            <input
              class="field mt-1"
              name="mail-password"
              type="password"
              autocomplete="new-password"
              :placeholder="server.has_password ? 'as it is' : 'none'"
              :value="form.password ?? ''"
              @input="set({ password: text($event) || null })"
          /></label>
        </div>
        <div class="flex flex-wrap items-end gap-3">
          <label class="flex-[3]"
            >Mails come from
            <input
              class="field mt-1"
              name="mail-sender"
              type="email"
              required
              placeholder="lantern@emberhall.example"
              :value="form.sender"
              @input="set({ sender: text($event) })"
          /></label>
          <label
            >The mail of the day goes out at
            <span class="mt-1 flex gap-2"
              ><input
                class="field w-28"
                name="mail-digest"
                type="time"
                required
                :value="form.digest_at"
                @input="set({ digest_at: text($event) })"
              /><select
                class="field w-48"
                name="mail-zone"
                aria-label="Time zone of the mail of the day"
                :value="form.zone"
                @change="set({ zone: text($event) })"
              >
                <option v-for="one in ZONES" :key="one">{{ one }}</option>
              </select></span
            ></label
          >
          <label class="flex items-center gap-2 pb-1.5"
            ><input
              type="checkbox"
              name="mail-enabled"
              :checked="form.enabled"
              @change="set({ enabled: !form.enabled })"
            />
            mails are sent</label
          >
        </div>
        <Trouble :error="trouble ?? untried" />
        <div class="flex justify-end gap-2">
          <button v-if="edited" type="button" class="button" @click="edited = null">Leave as it was</button>
          <button v-else type="button" class="button" :disabled="!server.enabled" @click="tryOut()">
            Send me a mail on trial
          </button>
          <button class="button button-main" :disabled="busy || !edited">Save</button>
        </div>
      </form>
      <SentLog class="border-t border-line px-4 py-2" :messages="messages" @again="again($event)" />
    </div>
  </section>
</template>
