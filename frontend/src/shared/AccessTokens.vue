<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'

import Modal from './Modal.vue'
import ToldOnce from './ToldOnce.vue'
import Trouble from './Trouble.vue'
import { useAct } from './acting'
import { say } from './notes'
import { ago, exact } from './times'

/** One's own access tokens, by which programs come in as oneself. */
const open = defineModel<boolean>('open', { required: true })
const query = useQuery({
  queryKey: ['tokens'],
  queryFn: () => ask(api.GET('/api/me/tokens')),
  enabled: open,
})
const tokens = computed(() => query.data.value?.tokens ?? [])
const name = ref('')
const scope = ref<NonNullable<Shapes['TokenAsk']['scope']>>('run')
const days = ref(90)
/** The token that was just made: it is told only now. */
const made = ref('')
const SCOPES = [
  { scope: 'read', words: 'to look' },
  { scope: 'run', words: 'to look, start and stop runs' },
  { scope: 'write', words: 'to do what you may, but for people and passwords' },
] as const
watch(open, () => (made.value = ''))

const {
  act: make,
  trouble,
  busy,
} = useAct(
  () => ask(api.POST('/api/me/tokens', { body: { name: name.value, scope: scope.value, days: days.value } })),
  {
    inPlace: true,
    stale: [['tokens']],
    done: (now) => {
      made.value = now.token
      name.value = ''
    },
  },
)
const { act: drop } = useAct(
  (one: Shapes['TokenOut']) => ask(api.DELETE('/api/me/tokens/{id}', { params: { path: { id: one.id } } })),
  { stale: [['tokens']], done: (_, one) => say(`“${one.name}” is good for nothing any more.`) },
)
const over = (one: Shapes['TokenOut']) => Date.parse(one.ends_at) < Date.now()
</script>

<template>
  <Modal v-model:open="open" title="Access tokens" wide>
    <p class="mb-3 text-sm text-soft">
      A program that sends one (<code>Authorization: Bearer …</code>) comes in as you. Each can be taken back
      at once. Pipelines use the <a class="underline" href="/api/client.pyz" download>client</a>, one file
      that Python runs.
    </p>
    <ToldOnce v-if="made" :text="made" what="token" />
    <form class="mb-3 flex flex-wrap items-end gap-2 text-sm" @submit.prevent="make()">
      <label class="min-w-40 flex-1"
        >What it is for
        <input v-model="name" class="field" name="token-name" maxlength="80" required placeholder="Pipeline"
      /></label>
      <label
        >It lets it
        <select v-model="scope" class="field" name="token-scope">
          <option v-for="one in SCOPES" :key="one.scope" :value="one.scope">{{ one.words }}</option>
        </select></label
      >
      <label
        >for days
        <input v-model.number="days" class="field w-20" type="number" min="1" max="366" name="token-days"
      /></label>
      <button class="button button-main" :disabled="busy">Make one</button>
    </form>
    <Trouble :error="trouble ?? query.error.value" />
    <p v-if="query.data.value && !tokens.length" class="text-sm text-soft">You have none.</p>
    <div v-else class="max-h-72 overflow-auto">
      <table class="list-table text-sm">
        <thead>
          <tr>
            <th>For</th>
            <th>Begins</th>
            <th>Scope</th>
            <th>Ends</th>
            <th>Last used</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in tokens" :key="one.id" :class="over(one) && 'text-soft'" data-role="token">
            <td class="max-w-40 truncate font-medium">{{ one.name }}</td>
            <td>
              <code>{{ one.begins }}…</code>
            </td>
            <td>{{ one.scope }}</td>
            <td :title="exact(one.ends_at)">{{ over(one) ? 'ended' : exact(one.ends_at).split(',')[0] }}</td>
            <td :title="exact(one.used_at)">
              {{ one.used_at ? `${ago(one.used_at)} from ${one.used_from}` : 'never' }}
            </td>
            <td class="text-right">
              <button class="button py-0" :aria-label="`Take back ${one.name}`" @click="drop(one)">
                Take back
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </Modal>
</template>
