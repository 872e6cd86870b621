<script setup lang="ts">
import { ChevronDown } from '@lucide/vue'
import { useDebounce } from '@vueuse/core'
import { ref } from 'vue'

import { api, ask, isLead } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Draft from '@/shared/Draft.vue'
import ListTable from '@/shared/ListTable.vue'
import Modal from '@/shared/Modal.vue'
import RowMenu from '@/shared/RowMenu.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { usePeople } from '@/shared/lists'
import type { Column } from '@/shared/lists'
import { say } from '@/shared/notes'

/** Who can sign in, and what leads may do about it. */
type Person = Shapes['Person']

const words = ref('')
const people = usePeople(useDebounce(words, 200))
const catalogue = useCatalogue()
const COLUMNS: Column[] = [
  { id: 'name', title: 'Name' },
  { id: 'username', title: 'Sign-in name' },
  { id: 'email', title: 'Mail address' },
  { id: 'role', title: 'Role' },
  { id: 'acts', title: 'Actions', hidden: true, class: 'py-1! text-right' },
]
const fresh = ref({ username: '', name: '', role: 'tester', password: '' })
const resetting = ref<Person | null>(null)
const deleting = ref<Person | null>(null)
const password = ref('')

const stale = [['people']]

const { act: add } = useAct(() => ask(api.POST('/api/people', { body: fresh.value })), {
  stale,
  done: () => {
    say('The account is there.')
    fresh.value = { username: '', name: '', role: 'tester', password: '' }
  },
})

interface Change {
  id: number
  body: Partial<Shapes['PersonChange']>
  told: string
}
const changing = useAct(
  ({ id, body }: Change) => ask(api.PATCH('/api/people/{id}', { params: { path: { id } }, body })),
  { stale, done: (_, { told }) => say(told) },
)
const change = (one: Person, body: Change['body'], told: string) => changing.act({ id: one.id, body, told })

async function setRole(one: Person, list: HTMLSelectElement) {
  const changed = await change(one, { role: list.value }, `The role of ${one.name} is changed.`)
  if (!changed) list.value = one.role // refused: the list shows what holds
}

/** What a lead can do about somebody. */
const entries = (one: Person) => [
  { words: 'Give a new password', act: () => ((password.value = ''), (resetting.value = one)) },
  {
    words: one.disabled ? 'Enable' : 'Disable',
    act: () =>
      change(
        one,
        { disabled: !one.disabled },
        one.disabled ? `${one.name} can sign in again.` : `${one.name} is signed out and can not sign in.`,
      ),
  },
  { words: 'Delete', act: () => (deleting.value = one), bad: true },
]

async function reset() {
  const one = resetting.value!
  if (
    await change(one, { password: password.value }, `${one.name} signs in with the new password from now on.`)
  )
    resetting.value = null
}

const { act: remove } = useAct(
  (one: Person) => ask(api.DELETE('/api/people/{id}', { params: { path: { id: one.id } } })),
  {
    stale,
    done: (_, one) => {
      say(`The account of ${one.name} is gone.`)
      deleting.value = null
    },
  },
)
</script>

<template>
  <section data-role="people">
    <div class="mb-2 flex items-center gap-3">
      <h2 class="font-semibold">People</h2>
      <input
        v-model="words"
        class="field max-w-64"
        type="search"
        placeholder="Search by name"
        aria-label="Search people"
      />
    </div>
    <Trouble :error="people.error.value" />
    <div class="panel">
      <p v-if="people.first.value && !people.rows.value.length" class="p-3 text-soft">
        Nobody has that name.
      </p>
      <ListTable v-else class="border-0" :list="people" :columns="COLUMNS">
        <template #name="{ row }"
          ><span :class="row.disabled && 'text-soft'">{{ row.name }}</span></template
        >
        <template #username="{ row }"
          ><span :class="row.disabled && 'text-soft'"
            >{{ row.username }}{{ row.disabled ? ' (disabled)' : '' }}</span
          ></template
        >
        <template #email="{ row }">
          <Draft
            v-if="isLead()"
            class="field max-w-72 py-0"
            :value="row.email"
            placeholder="none"
            :aria-label="`Mail address of ${row.name}`"
            @save="change(row, { email: $event }, `Mails to ${row.name} go there.`)"
          />
          <template v-else>{{ row.email }}</template>
        </template>
        <template #role="{ row }">
          <select
            v-if="isLead()"
            class="field w-auto py-0"
            :aria-label="`Role of ${row.name}`"
            :value="row.role"
            @change="setRole(row, $event.target as HTMLSelectElement)"
          >
            <option v-for="role in catalogue.data.value?.roles" :key="role">{{ role }}</option>
          </select>
          <template v-else>{{ row.role }}</template>
        </template>
        <template #acts="{ row }">
          <RowMenu v-if="isLead()" :label="`Change ${row.name}`" :entries="entries(row)"
            >Change <ChevronDown :size="13"
          /></RowMenu>
        </template>
      </ListTable>
      <form
        v-if="isLead()"
        class="grid border-t border-line grid-cols-[1fr_1fr_8rem_1fr_auto] gap-3 p-3"
        @submit.prevent="add()"
      >
        <input
          v-model="fresh.name"
          class="field"
          placeholder="Name"
          aria-label="Name of the person"
          required
        />
        <input
          v-model="fresh.username"
          class="field"
          placeholder="Sign-in name"
          aria-label="Sign-in name"
          required
        />
        <select v-model="fresh.role" class="field" aria-label="Role">
          <option v-for="one in catalogue.data.value?.roles" :key="one">{{ one }}</option>
        </select>
        <input
          v-model="fresh.password"
          class="field"
          type="password"
          placeholder="Password"
          aria-label="Password"
          autocomplete="new-password"
          required
        />
        <button class="button">Add the person</button>
      </form>
      <p v-else class="p-3 text-soft">A lead adds people.</p>
    </div>
    <Modal
      :open="resetting !== null"
      :title="`A new password for ${resetting?.name}`"
      @update:open="resetting = null"
    >
      <form class="flex flex-col gap-3" @submit.prevent="reset">
        <p class="text-soft">
          Whatever {{ resetting?.name }} has open ends now. Tell them the password; they can change it
          themselves.
        </p>
        <input
          v-model="password"
          class="field"
          type="password"
          name="new-password"
          aria-label="New password"
          autocomplete="new-password"
          required
        />
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="resetting = null">Leave it</button>
          <button class="button button-main">Give it</button>
        </div>
      </form>
    </Modal>
    <Modal
      :open="deleting !== null"
      :title="`Delete the account of ${deleting?.name}?`"
      @update:open="deleting = null"
    >
      <p class="mb-3 text-soft">
        {{ deleting?.name }} can not sign in any more, and this can not be undone. What they made stays, with
        their name.
      </p>
      <div class="flex justify-end gap-2">
        <button class="button" @click="deleting = null">Keep it</button>
        <button class="button button-bad" @click="remove(deleting!)">Delete the account</button>
      </div>
    </Modal>
  </section>
</template>
