<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import PickOne from '@/shared/PickOne.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { usePlanList } from '@/shared/lists'
import type { Named } from '@/shared/lists'
import { say } from '@/shared/notes'

import HookLog from './HookLog.vue'
import OutsideLine from './OutsideLine.vue'

/** Webhooks: other programs that are told of runs of plans. For leads. */
type Hook = Shapes['HookOut']
const EVENTS = [
  { event: 'start', words: 'a run starts' },
  { event: 'end', words: 'it ends' },
  { event: 'fail', words: 'it fails' },
  { event: 'fixed', words: 'it passes after it failed' },
] as const
const query = useQuery({
  queryKey: ['hooks'],
  queryFn: () => ask(api.GET('/api/hooks')),
  refetchInterval: 5000,
})
const hooks = computed(() => query.data.value?.hooks ?? [])
const empty = () => ({ name: '', address: '', events: ['end'] as Hook['events'], secret: '' })
const form = ref(empty())
const plan = ref<Named | null>(null)
/** The one that is changed, 0 for a new one, null for none. */
const editing = ref<number | null>(null)
const open = ref(0)
const stale = [['hooks']]

function edit(one: Hook) {
  form.value = { name: one.name, address: one.address, events: [...one.events], secret: '' }
  plan.value = one.plan ? { id: one.plan, name: `plan ${one.plan}` } : null
  editing.value = one.id
}
function begin() {
  form.value = empty()
  plan.value = null
  editing.value = 0
}
const body = (enabled: boolean): Shapes['HookIn'] => ({
  ...form.value,
  secret: form.value.secret || null,
  plan: plan.value?.id ?? null,
  enabled,
})
const {
  act: save,
  trouble,
  busy,
} = useAct(
  () => {
    const one = hooks.value.find((it) => it.id === editing.value)
    if (!one) return ask(api.POST('/api/hooks', { body: body(true) }))
    return ask(api.PUT('/api/hooks/{id}', { params: { path: { id: one.id } }, body: body(one.enabled) }))
  },
  { inPlace: true, stale, done: () => (editing.value = null) },
)
const { act: put } = useAct(
  ({ id, name, address, events, plan, enabled }: Hook) =>
    ask(
      api.PUT('/api/hooks/{id}', {
        params: { path: { id } },
        body: { name, address, events, plan, enabled, secret: null },
      }),
    ),
  { stale },
)
const { act: drop } = useAct(
  (one: Hook) => ask(api.DELETE('/api/hooks/{id}', { params: { path: { id: one.id } } })),
  { stale, done: (_, one) => say(`“${one.name}” is told nothing any more.`) },
)
function toggle(event: Hook['events'][number]) {
  const now = form.value.events
  form.value.events = now.includes(event) ? now.filter((one) => one !== event) : [...now, event]
}
const told = (one: Hook) =>
  EVENTS.filter((it) => one.events.includes(it.event))
    .map((it) => it.words)
    .join(', ')
</script>

<template>
  <section aria-label="Webhooks" data-role="hooks">
    <h2 class="mb-2 font-semibold">Webhooks</h2>
    <p class="mb-3 text-soft">
      Other programs that are told of runs of plans, by a POST that is signed with a secret of yours.
    </p>
    <Trouble :error="query.error.value" />
    <div class="panel text-sm">
      <p v-if="query.data.value && !hooks.length && editing === null" class="px-4 py-3 text-soft">
        None yet.
      </p>
      <ul>
        <li v-for="one in hooks" :key="one.id" class="border-b border-line px-4 py-2" :data-hook="one.id">
          <OutsideLine
            :name="one.name"
            :enabled="one.enabled"
            :words="`${one.address}, when ${told(one)}`"
            :failing="one.failing"
            :logged="open === one.id"
            @toggle="put({ ...one, enabled: !one.enabled })"
            @log="open = open === one.id ? 0 : one.id"
            @change="edit(one)"
            @drop="drop(one)"
          />
          <HookLog v-if="open === one.id" :hook="one.id" />
        </li>
      </ul>
      <form v-if="editing !== null" class="flex flex-col gap-2 p-4" @submit.prevent="save()">
        <div class="flex flex-wrap gap-3">
          <label class="flex-1"
            >Name <input v-model="form.name" class="field mt-1" name="hook-name" required
          /></label>
          <label class="flex-[2]"
            >Address
            <input
              v-model="form.address"
              class="field mt-1"
              name="hook-address"
              required
              placeholder="https://ci.example/hook"
          /></label>
          <label class="flex-1"
            >Secret
            <input
              v-model="form.secret"
              class="field mt-1"
              name="hook-secret"
              type="password"
              autocomplete="new-password"
              :required="editing === 0"
              :placeholder="editing ? 'as it is' : 'at least 8 characters'"
          /></label>
        </div>
        <div class="flex flex-wrap items-center gap-4">
          <span class="text-soft">told when</span>
          <label v-for="one in EVENTS" :key="one.event" class="flex items-center gap-1.5"
            ><input type="checkbox" :checked="form.events.includes(one.event)" @change="toggle(one.event)" />
            {{ one.words }}</label
          >
          <label class="flex flex-1 items-center gap-2"
            >of <PickOne v-model="plan" :list="usePlanList" label="Plan of the webhook" none="all plans"
          /></label>
        </div>
        <Trouble :error="trouble" />
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="editing = null">Cancel</button>
          <button class="button button-main" :disabled="busy">Save</button>
        </div>
      </form>
      <p v-else class="p-3"><button class="button" @click="begin">Add a webhook</button></p>
    </div>
  </section>
</template>
