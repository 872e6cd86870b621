<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

import FieldMap from './FieldMap.vue'
import OutsideLine from './OutsideLine.vue'
import SentLog from './SentLog.vue'

/** Outside trackers, to which defects are handed over. For leads. */
type Tracker = Shapes['TrackerOut']
const catalogue = useCatalogue()
const query = useQuery({
  queryKey: ['trackers', 'all'],
  queryFn: () => ask(api.GET('/api/trackers')),
  refetchInterval: 5000,
})
const trackers = computed(() => query.data.value?.trackers ?? [])
const stale = [['trackers']]
const form = ref<Shapes['TrackerIn'] | null>(null)
/** The one that is changed, null for a new one. */
const editing = ref<Tracker | null>(null)
const open = ref(0)

const plain = (one: Tracker): Shapes['TrackerIn'] => ({
  name: one.name,
  kind: one.kind,
  address: one.address,
  header: one.header,
  token: null,
  inbox: null,
  mapping: JSON.parse(JSON.stringify(one.mapping)) as Shapes['FieldMapShape'],
  enabled: one.enabled,
  every: one.every,
  version: one.version,
})
function edit(one: Tracker) {
  editing.value = one
  form.value = plain(one)
}
function begin() {
  editing.value = null
  form.value = {
    name: '',
    kind: 'rest',
    address: '',
    header: 'Authorization',
    token: '',
    inbox: '',
    mapping: JSON.parse(JSON.stringify(query.data.value!.usual)) as Shapes['FieldMapShape'],
    enabled: true,
    every: 60,
  }
}
const {
  act: save,
  trouble,
  busy,
} = useAct(
  (body: Shapes['TrackerIn']) =>
    editing.value
      ? ask(api.PUT('/api/trackers/{id}', { params: { path: { id: editing.value.id } }, body }))
      : ask(api.POST('/api/trackers', { body })),
  { inPlace: true, stale, done: () => (form.value = null) },
)
const { act: put } = useAct(
  (one: Tracker) =>
    ask(api.PUT('/api/trackers/{id}', { params: { path: { id: one.id } }, body: plain(one) })),
  { stale },
)
const at = (one: Tracker) => ({ params: { path: { id: one.id } } })
const { act: attempt } = useAct((one: Tracker) => ask(api.POST('/api/trackers/{id}/try', at(one))), {
  done: ({ said }, one) => say(said ? `${one.name}: ${said}` : `${one.name} answers, and lets Lantern in.`),
})
const asking = ref(0)
const { act: drop } = useAct((one: Tracker) => ask(api.DELETE('/api/trackers/{id}', at(one))), {
  stale,
  done: (_, one) => {
    asking.value = 0
    say(`“${one.name}” is told nothing any more.`)
  },
})

const log = useQuery({
  queryKey: computed(() => ['trackers', 'log', open.value]),
  queryFn: () =>
    ask(api.GET('/api/trackers/{id}/messages', { params: { path: { id: open.value } } })),
  enabled: computed(() => open.value > 0),
  refetchInterval: 3000,
})
const messages = computed(() =>
  (log.data.value?.messages ?? []).map((one) => ({
    ...one,
    plan_run_id: null,
    head: `${one.about === 'comment' ? 'comment on ' : ''}defect ${one.defect}`,
  })),
)
const { act: again } = useAct(
  (id: number) => ask(api.POST('/api/tracker-messages/{id}/again', { params: { path: { id } } })),
  { stale },
)
const told = (one: Tracker) =>
  [one.address, one.every && `asked every ${one.every} s`, one.has_inbox && 'tells by itself']
    .filter(Boolean)
    .join(', ')
/** What is typed stays as it is where nothing is typed in its place. */
const typed = (event: Event) => (event.target as HTMLInputElement).value || (editing.value ? null : '')
</script>

<template>
  <section aria-label="Trackers" data-role="trackers">
    <h2 class="mb-2 font-semibold">Trackers</h2>
    <p class="mb-3 text-soft">
      Where defects are handed over to. What changes here is told there, and what changes there comes back.
    </p>
    <Trouble :error="query.error.value" />
    <div class="panel text-sm">
      <p v-if="query.data.value && !trackers.length && !form" class="px-4 py-3 text-soft">None yet.</p>
      <ul>
        <li v-for="one in trackers" :key="one.id" class="border-b border-line px-4 py-2" :data-tracker="one.name">
          <OutsideLine
            :name="one.name"
            :enabled="one.enabled"
            :words="told(one)"
            :failing="one.failing"
            :logged="open === one.id"
            @toggle="put({ ...one, enabled: !one.enabled })"
            @log="open = open === one.id ? 0 : one.id"
            @change="edit(one)"
            @drop="asking = one.id"
          >
            <a v-if="one.shown" class="underline" :href="one.shown" target="_blank">its pages</a>
            <template #acts><button class="button py-0" @click="attempt(one)">Try it</button></template>
          </OutsideLine>
          <p v-if="asking === one.id" class="mt-2 flex items-center gap-2" role="alert">
            Defects forget what they are called there.
            <button class="button py-0" @click="drop(one)">Delete it all the same</button>
            <button class="button py-0" @click="asking = 0">Keep it</button>
          </p>
          <SentLog v-if="open === one.id" class="mt-2" :messages="messages" @again="again($event)" />
        </li>
      </ul>
      <form v-if="form" class="flex flex-col gap-3 p-4" @submit.prevent="save(form)">
        <div class="flex flex-wrap gap-3">
          <label class="flex-1"
            >Name <input v-model="form.name" class="field mt-1" name="tracker-name" required
          /></label>
          <label class="flex-[2]"
            >Address of its items
            <input
              v-model="form.address"
              class="field mt-1"
              name="tracker-address"
              required
              placeholder="https://tracker.example/api/items"
          /></label>
          <label v-if="query.data.value!.kinds.length > 1"
            >Kind
            <select v-model="form.kind" class="field mt-1">
              <option v-for="one in query.data.value!.kinds" :key="one.name" :value="one.name">
                {{ one.title }}
              </option>
            </select></label
          >
        </div>
        <div class="flex flex-wrap gap-3">
          <label class="w-36">Header <input v-model="form.header" class="field mt-1" required /></label>
          <label class="flex-1"
            >What is said in it
            <input
              class="field mt-1"
              name="tracker-token"
              type="password"
              autocomplete="new-password"
              :placeholder="editing?.has_token ? 'as it is' : 'such as Bearer 1a2b3c'"
              @input="form.token = typed($event)"
          /></label>
          <label class="flex-1" title="With it the tracker signs that something changed"
            >Secret of what it tells
            <input
              class="field mt-1"
              name="tracker-inbox"
              type="password"
              autocomplete="new-password"
              :placeholder="editing?.has_inbox ? 'as it is' : 'none: it is only asked'"
              @input="form.inbox = typed($event)"
          /></label>
          <label class="w-36"
            >Asked every <span class="text-soft">(s)</span>
            <input
              v-model.number="form.every"
              class="field mt-1"
              type="number"
              min="0"
              title="0 for never: it tells by itself"
              required
          /></label>
        </div>
        <FieldMap
          v-model="form.mapping"
          :parts="query.data.value!.parts"
          :words="{
            state: catalogue.data.value?.defect_states ?? [],
            severity: catalogue.data.value?.severities ?? [],
            priority: catalogue.data.value?.priorities ?? [],
          }"
        />
        <Trouble :error="trouble" />
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="form = null">Cancel</button>
          <button class="button button-main" :disabled="busy">Save</button>
        </div>
      </form>
      <p v-else class="p-3">
        <button class="button" :disabled="!query.data.value" @click="begin">Add a tracker</button>
      </p>
    </div>
  </section>
</template>
