<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** Browsers elsewhere, at an address that speaks WebDriver. For leads. */
type Remote = Shapes['RemoteOut']
const query = useQuery({ queryKey: ['remotes'], queryFn: () => ask(api.GET('/api/remotes')) })
const remotes = computed(() => query.data.value?.remotes ?? [])
const empty = () => ({ name: '', address: '', user: '', password: '', capabilities: '{}' })
const form = ref(empty())
/** The one that is changed, 0 for a new one, null for none. */
const editing = ref<number | null>(null)
const kept = computed(() => remotes.value.find((one) => one.id === editing.value)?.password_kept)
const stale = [['remotes'], ['browsers']]

function begin(one?: Remote) {
  form.value = one
    ? { ...one, password: '', capabilities: JSON.stringify(one.capabilities, null, 1) }
    : empty()
  editing.value = one?.id ?? 0
}
const {
  act: save,
  trouble,
  busy,
} = useAct(
  () => {
    const { name, address, user, password, capabilities } = form.value
    const body = { name, address, user, password: password || null, capabilities }
    return editing.value
      ? ask(api.PUT('/api/remotes/{id}', { params: { path: { id: editing.value } }, body }))
      : ask(api.POST('/api/remotes', { body }))
  },
  { inPlace: true, stale, done: () => (editing.value = null) },
)
const { act: drop } = useAct(
  (one: Remote) => ask(api.DELETE('/api/remotes/{id}', { params: { path: { id: one.id } } })),
  { stale, done: (_, one) => say(`“${one.engine}” is no browser any more.`) },
)
const tried = ref<{ id: number; error: string }>()
const trying = ref(0)
const { act: tryIt } = useAct(
  (one: Remote) => {
    trying.value = one.id
    tried.value = undefined
    const asked = ask(api.POST('/api/remotes/{id}/try', { params: { path: { id: one.id } } }))
    return asked.finally(() => (trying.value = 0))
  },
  { stale, done: (now) => (tried.value = { id: now.remote.id, error: now.error }) },
)
</script>

<template>
  <section aria-label="Remote browsers" data-role="remotes">
    <h2 class="mb-2 font-semibold">Remote browsers</h2>
    <p class="mb-3 text-soft">
      Browsers elsewhere, behind any address that speaks W3C WebDriver. A column, a plan and a run name one as
      <code>remote NAME</code>; stations beside the server play in it.
    </p>
    <Trouble :error="query.error.value" />
    <div class="panel text-sm">
      <p v-if="query.data.value && !remotes.length && editing === null" class="px-4 py-3 text-soft">
        None yet.
      </p>
      <ul>
        <li
          v-for="one in remotes"
          :key="one.id"
          class="border-b border-line px-4 py-2"
          :data-remote="one.engine"
        >
          <div class="flex items-baseline gap-2">
            <b>{{ one.engine }}</b>
            <span class="min-w-0 flex-1 truncate text-soft"
              >{{ one.address }}<template v-if="one.user">, as {{ one.user }}</template
              ><template v-if="one.browser">, {{ one.browser }}</template></span
            >
            <button class="button py-0" :disabled="trying === one.id" @click="tryIt(one)">
              {{ trying === one.id ? 'Tries…' : 'Try it' }}
            </button>
            <button class="button py-0" @click="begin(one)">Change</button>
            <button class="button py-0" :aria-label="`Delete ${one.name}`" @click="drop(one)">Delete</button>
          </div>
          <template v-if="tried?.id === one.id">
            <p v-if="tried.error" class="mt-1 text-bad" data-role="tried">{{ tried.error }}</p>
            <div v-else class="mt-1" data-role="tried">
              <p class="text-good">A session came about: {{ one.browser }}.</p>
              <ul class="ml-4 list-disc text-soft">
                <li v-for="lack in one.lacks" :key="lack">{{ lack }}</li>
              </ul>
            </div>
          </template>
        </li>
      </ul>
      <form v-if="editing !== null" class="flex flex-col gap-2 p-4" @submit.prevent="save()">
        <div class="flex flex-wrap gap-3">
          <label class="flex-1"
            >Name
            <input v-model="form.name" class="field mt-1" name="remote-name" required placeholder="Kiln grid"
          /></label>
          <label class="flex-[2]"
            >Address
            <input
              v-model="form.address"
              class="field mt-1"
              name="remote-address"
              required
              placeholder="https://grid.example:4444"
          /></label>
          <label class="flex-1"
            >Who is let in
            <input v-model="form.user" class="field mt-1" name="remote-user" autocomplete="off"
          /></label>
          <label class="flex-1"
            >Password
            <input
              v-model="form.password"
              class="field mt-1"
              name="remote-password"
              type="password"
              autocomplete="new-password"
              :placeholder="kept ? 'as it is' : ''"
          /></label>
        </div>
        <label
          >Capabilities that every session has to have, as JSON; <code>${password}</code> stands for the
          password
          <textarea
            v-model="form.capabilities"
            class="field mt-1 font-mono text-xs"
            name="remote-capabilities"
            rows="4"
            spellcheck="false"
          />
        </label>
        <Trouble :error="trouble" />
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="editing = null">Cancel</button>
          <button class="button button-main" :disabled="busy">Save</button>
        </div>
      </form>
      <p v-else class="p-3"><button class="button" @click="begin()">Add a remote browser</button></p>
    </div>
  </section>
</template>
