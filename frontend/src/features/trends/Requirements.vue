<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask, mayChange, session } from '@/api/client'
import type { Shapes } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** Requirements by release: what covers them, how that came out last, and what nothing covers. */
type All = Shapes['Requirements']
const queries = useQueryClient()
const query = useQuery({
  queryKey: ['requirements'],
  queryFn: () => ask(api.GET('/api/requirements')),
})
const told = computed(() => query.data.value)
const words = ref('')
const which = ref<'all' | 'uncovered' | 'failed'>('all')
const bare = computed(() => told.value?.requirements.filter((one) => !one.tests.length) ?? [])
const shown = computed(() =>
  (told.value?.requirements ?? []).filter(
    (one) =>
      (which.value !== 'uncovered' || !one.tests.length) &&
      (which.value !== 'failed' || outcomeOf(one, told.value?.releases[0] ?? '')?.outcome === 'failed') &&
      `${one.id} ${one.title} ${one.tests.map((test) => test.name).join(' ')}`
        .toLowerCase()
        .includes(words.value.trim().toLowerCase()),
  ),
)
const outcomeOf = (one: Shapes['RequirementOut'], release: string) =>
  one.releases.find((its) => its.release === release)
const MOST = 200
const more = ref(false)
const naming = ref(false)
const form = ref({ form: '', column: '', address: '' })
function openNaming() {
  form.value = { ...form.value, ...told.value!.scheme }
  naming.value = !naming.value
}
const kept = (now: All) => queries.setQueryData(['requirements'], now)
// Asked anew as well: an answer of before that is still under way must not be the last.
const stale = [['requirements']]
const { act: save } = useAct(() => ask(api.PUT('/api/requirements/scheme', { body: form.value })), {
  stale,
  done: (now) => {
    kept(now)
    naming.value = false
  },
})
const { act: take } = useAct((csv: string) => ask(api.PUT('/api/requirements/known', { body: { csv } })), {
  stale,
  done: (now) => {
    kept(now)
    say(`${now.known} requirements are known now.`)
  },
})
async function read(event: Event) {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) await take(await file.text())
  field.value = ''
}
</script>

<template>
  <div class="page">
    <div class="mb-4 flex flex-wrap items-center gap-3">
      <h1 class="heading">Requirements</h1>
      <input
        v-model="words"
        class="field w-64"
        type="search"
        placeholder="Search"
        aria-label="Search requirements"
      />
      <select v-model="which" class="field w-auto" aria-label="Which requirements">
        <option value="all">all</option>
        <option value="uncovered">that no test covers</option>
        <option value="failed">that failed on the newest release</option>
      </select>
      <span class="ml-auto flex gap-2">
        <label
          v-if="mayChange()"
          class="button cursor-pointer"
          title="A line of headers, then id and title of each"
          >List from a CSV<input
            class="sr-only"
            type="file"
            accept=".csv,text/csv"
            aria-label="CSV of requirements"
            @change="read"
        /></label>
        <button
          v-if="session.me?.account.role === 'lead'"
          class="button"
          :aria-pressed="naming"
          @click="openNaming"
        >
          How they are named
        </button>
      </span>
    </div>
    <Trouble :error="query.error.value" />
    <form v-if="naming" class="panel mb-4 grid gap-2 p-4 text-sm md:grid-cols-3" @submit.prevent="save()">
      <label
        >Form of ids, as a regular expression<input v-model="form.form" class="field font-mono" required
      /></label>
      <label>Column in which rows name them<input v-model="form.column" class="field" /></label>
      <label
        >Where they live<input v-model="form.address" class="field" placeholder="https://wiki.example/{id}"
      /></label>
      <div class="flex justify-end gap-2 md:col-span-3">
        <button type="button" class="button" @click="naming = false">Cancel</button>
        <button class="button button-main">Save</button>
      </div>
    </form>
    <template v-if="told">
      <Empty v-if="!told.requirements.length" title="No requirement is named yet">
        A test covers the requirements that its labels name, such as EMB-12; a row those in its column “{{
          told.scheme.column
        }}”. A CSV of all ids tells which nothing covers.
      </Empty>
      <template v-else>
        <p class="mb-3 text-sm text-soft" data-role="covered">
          {{ told.requirements.length - bare.length }} of {{ told.requirements.length }} are covered by a
          test.
          <button v-if="bare.length" class="underline" @click="which = 'uncovered'">
            Nothing covers {{ bare.length }}
          </button>
        </p>
        <div class="panel overflow-x-auto" tabindex="0" aria-label="Requirements and releases">
          <table class="list-table text-sm" data-role="requirements">
            <thead>
              <tr>
                <th>Requirement</th>
                <th>Covered by</th>
                <th v-for="release in told.releases.slice(0, 8)" :key="release" class="whitespace-nowrap">
                  {{ release || 'no release' }}
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in more ? shown : shown.slice(0, MOST)" :key="one.id" :data-requirement="one.id">
                <td class="max-w-80">
                  <a
                    v-if="one.link"
                    class="font-medium underline"
                    :href="one.link"
                    target="_blank"
                    rel="noreferrer"
                    >{{ one.id }}</a
                  >
                  <span v-else class="font-medium">{{ one.id }}</span>
                  <span class="block truncate text-xs text-soft" :title="one.title">{{ one.title }}</span>
                </td>
                <td>
                  <span v-if="!one.tests.length" class="text-odd">no test</span>
                  <RouterLink
                    v-for="test in one.tests"
                    :key="test.test"
                    class="block max-w-72 truncate hover:underline"
                    :to="`/tests/${test.test}`"
                    >{{ test.name }}</RouterLink
                  >
                </td>
                <td v-for="release in told.releases.slice(0, 8)" :key="release">
                  <RouterLink
                    v-if="outcomeOf(one, release)"
                    :to="`/runs/${outcomeOf(one, release)!.run}`"
                    :title="`The worst of ${outcomeOf(one, release)!.rows} rows`"
                    ><Outcome :outcome="outcomeOf(one, release)!.outcome"
                  /></RouterLink>
                  <span v-else-if="one.tests.length" class="text-soft">not played</span>
                </td>
              </tr>
              <tr v-if="!shown.length">
                <td colspan="10" class="text-soft">None is like that.</td>
              </tr>
            </tbody>
          </table>
        </div>
        <button v-if="shown.length > MOST && !more" class="button mt-2" @click="more = true">
          {{ shown.length - MOST }} more
        </button>
      </template>
    </template>
  </div>
</template>
