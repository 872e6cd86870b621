<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { Ellipsis } from '@lucide/vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useTests } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import Modal from '@/shared/Modal.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { complain, say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'

import NewTest from './NewTest.vue'

type Brief = Shapes['TestBrief']
type Order = 'changed' | 'name' | 'outcome'

const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const tests = useTests()
const words = ref('')
const order = ref<Order>('changed')
const outcome = ref('')
const making = ref(false)
const deleting = ref<Brief | null>(null)

watch(
  () => route.query.new,
  (wanted) => {
    if (wanted && mayChange()) making.value = true
  },
  { immediate: true },
)
watch(making, (open) => {
  if (!open && route.query.new) void router.replace('/tests')
})

const lastState = (test: Brief) => test.last_run?.state ?? 'never ran'
const outcomes = computed(() => [...new Set((tests.data.value?.tests ?? []).map(lastState))])
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  const found = (tests.data.value?.tests ?? []).filter(
    (test) =>
      test.name.toLowerCase().includes(wanted) && (!outcome.value || lastState(test) === outcome.value),
  )
  const by: Record<Order, (a: Brief, b: Brief) => number> = {
    changed: (a, b) => b.changed_at.localeCompare(a.changed_at),
    name: (a, b) => a.name.localeCompare(b.name),
    outcome: (a, b) => lastState(a).localeCompare(lastState(b)),
  }
  return found.sort(by[order.value])
})

async function copy(test: Brief) {
  try {
    const made = await ask(
      api.POST('/api/tests/{id}/copy', {
        params: { path: { id: test.id } },
        body: { name: `${test.name} (copy ${Date.now() % 10_000})` },
      }),
    )
    say(`“${test.name}” was copied.`)
    void router.push(`/tests/${made.id}`)
  } catch (error) {
    complain(error)
  }
}

async function remove() {
  const test = deleting.value
  deleting.value = null
  if (!test) return
  try {
    await ask(api.DELETE('/api/tests/{id}', { params: { path: { id: test.id } } }))
    say(`“${test.name}” was deleted. Its runs stay on record.`)
    void queries.invalidateQueries({ queryKey: ['tests'] })
  } catch (error) {
    complain(error)
  }
}
</script>

<template>
  <div class="page">
    <div class="mb-4 flex items-center gap-3">
      <h1 class="heading">Tests</h1>
      <input
        v-model="words"
        class="field ml-4 max-w-64"
        type="search"
        placeholder="Search by name"
        aria-label="Search tests"
      />
      <label class="flex items-center gap-2 text-sm text-soft">
        Sort by
        <select v-model="order" class="field w-auto">
          <option value="changed">last change</option>
          <option value="name">name</option>
          <option value="outcome">outcome</option>
        </select>
      </label>
      <label class="flex items-center gap-2 text-sm text-soft">
        Last run
        <select v-model="outcome" class="field w-auto">
          <option value="">any</option>
          <option v-for="state in outcomes" :key="state">{{ state }}</option>
        </select>
      </label>
      <button v-if="mayChange()" class="button button-main ml-auto" @click="making = true">New test</button>
    </div>
    <Trouble :error="tests.error.value" />
    <Empty v-if="tests.data.value?.tests.length === 0" title="No test yet">
      <p>
        A test is what you do on a page, said in sentences. Name one, and do it on the stage: Lantern writes
        it down.
      </p>
      <button v-if="mayChange()" class="button button-main mt-4" @click="making = true">
        Record the first test
      </button>
    </Empty>
    <p v-else-if="tests.data.value && shown.length === 0" class="panel p-6 text-center text-soft">
      No test fits. <button class="underline" @click="((words = ''), (outcome = ''))">Show all</button>
    </p>
    <div v-else-if="tests.data.value" class="panel">
      <table class="list-table">
        <thead>
          <tr>
            <th>Name</th>
            <th>Last run</th>
            <th>Sentences</th>
            <th>Rows</th>
            <th>Environment</th>
            <th>Changed</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="test in shown" :key="test.id">
            <td class="max-w-96">
              <RouterLink class="font-medium wrap-anywhere hover:underline" :to="`/tests/${test.id}`">{{
                test.name
              }}</RouterLink>
            </td>
            <td>
              <RouterLink v-if="test.last_run" :to="`/runs/${test.last_run.id}`" class="hover:underline">
                <Outcome :outcome="test.last_run.state" />
              </RouterLink>
              <span v-else class="text-soft">never ran</span>
            </td>
            <td>{{ test.steps }}</td>
            <td>{{ test.rows || '' }}</td>
            <td>{{ test.environment }}</td>
            <td class="whitespace-nowrap text-soft" :title="exact(test.changed_at)">
              {{ ago(test.changed_at) }}
            </td>
            <td class="w-10">
              <Menu v-if="mayChange()" as="div" class="relative">
                <MenuButton class="button-bare" :aria-label="`Actions for ${test.name}`"
                  ><Ellipsis :size="16"
                /></MenuButton>
                <MenuItems class="floating absolute right-0 w-40 p-1">
                  <MenuItem v-slot="{ active }">
                    <button
                      class="w-full rounded px-2 py-1 text-left"
                      :class="active && 'bg-sunk'"
                      @click="copy(test)"
                    >
                      Copy
                    </button>
                  </MenuItem>
                  <MenuItem v-slot="{ active }">
                    <button
                      class="w-full rounded px-2 py-1 text-left text-bad"
                      :class="active && 'bg-sunk'"
                      @click="deleting = test"
                    >
                      Delete…
                    </button>
                  </MenuItem>
                </MenuItems>
              </Menu>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <NewTest v-model:open="making" />
    <Modal :open="deleting !== null" title="Delete this test?" @update:open="deleting = null">
      <p>
        “{{ deleting?.name }}” with its {{ deleting?.steps }} sentences and {{ deleting?.rows }} rows goes for
        good.
      </p>
      <div class="mt-4 flex justify-end gap-2">
        <button class="button" @click="deleting = null">Keep it</button>
        <button class="button button-bad" @click="remove">Delete the test</button>
      </div>
    </Modal>
  </div>
</template>
