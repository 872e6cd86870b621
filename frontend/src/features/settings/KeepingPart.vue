<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'
import { vScrolls } from '@/shared/scrolls'
import { vHeld } from '@/shared/held'

/** How long things are kept: what there is, what rules would free, and freeing it. For leads. */
type Rules = Shapes['RulesOut']
const query = useQuery({ queryKey: ['project', 'keeping'], queryFn: () => ask(api.GET('/api/keeping')) })

/** What is held, in words; `rule` says for how many days, `left` what stays all the same. */
const KINDS: { kind: string; title: string; rule: keyof Rules; left: string }[] = [
  { kind: 'tries', title: 'Tries', rule: 'tries', left: '' },
  { kind: 'passed', title: 'Runs that passed', rule: 'passed', left: 'and the newest of each test' },
  { kind: 'failed', title: 'Runs that failed', rule: 'failed', left: 'and the newest of each test' },
  { kind: 'pictures', title: 'Pictures of passed rows', rule: 'pictures', left: '' },
  { kind: 'pages', title: 'Saved pages', rule: 'pages', left: 'and the newest of each page' },
  {
    kind: 'versions',
    title: 'Versions of tests',
    rule: 'versions',
    left: 'then one a day, after a year one a month',
  },
]
const FREED: Record<string, string> = {
  runs: 'runs',
  pictures: 'pictures of rows',
  pages: 'saved pages',
  versions: 'versions',
  files: 'pictures and files that nothing showed',
  rows: 'parts of tables that nothing used',
}

const edited = ref<Rules | null>(null)
const rules = computed(() => edited.value ?? query.data.value?.rules ?? null)
const looked = ref<Shapes['HoldingOut'][] | null>(null)
const refused = ref<unknown>(null)
const holdings = computed(() => {
  const found = (edited.value && looked.value) || query.data.value?.holdings || []
  return new Map(found.map((one) => [one.kind, one]))
})
const look = useDebounceFn(async () => {
  if (!edited.value) return
  try {
    looked.value = (await ask(api.POST('/api/keeping/look', { body: edited.value }))).holdings
    refused.value = null
  } catch (error) {
    refused.value = error
  }
}, 300)
watch(edited, look, { deep: true })

function set(part: Partial<Rules>) {
  edited.value = { ...rules.value!, ...part }
}
const days = (event: Event) => Math.max(0, Math.round(Number((event.target as HTMLInputElement).value) || 0))
function size(bytes: number): string {
  if (bytes < 1e6) return `${Math.round(bytes / 1000)} kB`
  return bytes < 1e9 ? `${Math.round(bytes / 1e6)} MB` : `${(bytes / 1e9).toFixed(1)} GB`
}

const meaning = (told: string) => ({
  stale: [['project', 'keeping']],
  done: () => {
    say(told)
    edited.value = looked.value = null
  },
})
const saving = useAct(
  (now: Rules) => ask(api.PUT('/api/keeping', { body: now })),
  meaning('The rules hold from now on.'),
)
const save = () => saving.act(rules.value!)
const { act: tidy } = useAct(
  () => ask(api.POST('/api/keeping/tidy')),
  meaning('It is freed as soon as a station has time for it.'),
)
const freed = computed(() => {
  const last = query.data.value?.tidied
  const told = Object.entries(last?.freed ?? {}).filter(([, count]) => count)
  return told.map(([kind, count]) => `${count.toLocaleString()} ${FREED[kind] ?? kind}`).join(', ')
})
</script>

<template>
  <section data-role="keeping">
    <h2 class="mb-2 font-semibold">Keeping</h2>
    <p class="mb-3 max-w-3xl text-soft">
      For how long things stay; an empty field keeps them for good. Baselines, what a defect shows and runs
      that somebody keeps for good always stay. At night what is past its time is freed, and in any case
      pictures and rows that nothing uses any more.
    </p>
    <Trouble :error="query.error.value ?? refused" class="mb-2" />
    <div v-if="rules" v-scrolls class="panel overflow-x-auto">
      <table class="list-table [&_td]:align-middle">
        <thead>
          <tr>
            <th>What</th>
            <th>There are</th>
            <th>About</th>
            <th>Kept for</th>
            <th>Would be freed</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in KINDS" :key="one.kind" :data-kind="one.kind">
            <td class="whitespace-nowrap">{{ one.title }}</td>
            <td>{{ holdings.get(one.kind)?.count.toLocaleString() }}</td>
            <td class="whitespace-nowrap text-soft">{{ size(holdings.get(one.kind)?.size ?? 0) }}</td>
            <td>
              <label class="flex items-center gap-2 whitespace-nowrap"
                ><input
                  v-held="rules[one.rule] || ''"
                  class="field w-20"
                  type="number"
                  min="0"
                  placeholder="∞"
                  :aria-label="`Days for ${one.title.toLowerCase()}`"
                  @input="set({ [one.rule]: days($event) })"
                />
                <span
                  >days<span v-if="rules[one.rule] && one.left" class="text-soft"
                    >, {{ one.left }}</span
                  ></span
                ></label
              >
            </td>
            <td :class="holdings.get(one.kind)?.frees ? 'font-medium' : 'text-soft'" data-role="frees">
              {{ (holdings.get(one.kind)?.frees || 'none').toLocaleString() }}
            </td>
          </tr>
        </tbody>
      </table>
      <div class="flex flex-wrap items-center gap-3 border-t border-line px-3 py-2 text-sm">
        <label class="flex items-center gap-2"
          >at least the newest
          <input
            v-held="rules.least"
            class="field w-16"
            type="number"
            min="1"
            aria-label="Newest runs of each test that stay"
            @input="set({ least: Math.max(1, days($event)) })"
          />
          runs of each test stay</label
        >
        <span class="ml-auto flex gap-2">
          <button v-if="!edited" class="button" @click="set(query.data.value!.suggested)">
            Fill in what is usual
          </button>
          <template v-else>
            <button class="button" @click="edited = null">Leave as it was</button>
            <button class="button button-main" :disabled="refused !== null" @click="save">
              Keep these rules
            </button>
          </template>
          <button class="button" :disabled="edited !== null" @click="tidy()">Free it now</button>
        </span>
      </div>
    </div>
    <p v-if="query.data.value?.tidied" class="mt-2 text-sm text-soft" data-role="tidied">
      <span :title="exact(query.data.value.tidied.at)">Last done {{ ago(query.data.value.tidied.at) }}</span
      >: {{ freed || 'nothing had to go' }}.
    </p>
  </section>
</template>
