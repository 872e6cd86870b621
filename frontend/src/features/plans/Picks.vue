<script setup lang="ts">
import { X } from '@lucide/vue'
import { computed, ref, watch } from 'vue'

import { useLabels } from '@/api/queries'
import Draft from '@/shared/Draft.vue'
import PickOne from '@/shared/PickOne.vue'
import { useTestNames } from '@/shared/lists'
import type { Named } from '@/shared/lists'

import type { Body, Pick, Plan } from './usePlan'

/** Which tests a plan takes, and which rows of each. */
const props = defineProps<{ plan: Plan; fixed: boolean }>()
const emit = defineEmits<{ save: [parts: Partial<Body>] }>()
const labels = useLabels()
const kind = ref<Pick['kind']>('test')
const test = ref<Named | null>(null)
const words = ref('')

const picks = computed(() => props.plan.plan.picks ?? [])
const put = (now: Pick[]) => emit('save', { picks: now })
const change = (place: number, parts: Partial<Pick>) =>
  put(picks.value.map((one, n) => (n === place ? { ...one, ...parts } : one)))

function add(one: Partial<Pick>) {
  put([...picks.value, { kind: 'test', test: 0, words: '', rows: 'all', ...one }])
}
watch(test, (one) => {
  if (!one) return
  add({ test: one.id })
  test.value = null
})
function addWords() {
  if (words.value.trim()) add({ kind: kind.value, words: words.value.trim() })
  words.value = ''
}
const said: Record<string, string> = { label: 'all with the label', search: 'all with this in their names:' }
const ROWS = ['all', 'ticked', 'failed last']
function rows(place: number, value: string) {
  if (value === 'some') change(place, { rows: '1' })
  else change(place, { rows: value })
}
</script>

<template>
  <section class="panel p-4" data-role="picks">
    <h2 class="mb-2 text-sm font-semibold">Which tests</h2>
    <p v-if="!picks.length" class="mb-2 text-sm text-soft">
      None yet. Pick tests one by one, or by a label or a search: those stay live, and take in what has the
      label when the plan starts.
    </p>
    <ul class="mb-3 flex flex-col gap-1 text-sm">
      <li v-for="(one, place) in picks" :key="place" class="flex items-center gap-2" data-role="pick">
        <span class="min-w-0 flex-1 truncate">
          <span v-if="one.kind !== 'test'" class="mr-1 text-soft">{{ said[one.kind!] }}</span>
          <RouterLink
            v-if="one.kind === 'test' && plan.names[one.test!]"
            class="font-medium hover:underline"
            :to="`/tests/${one.test}`"
            >{{ plan.names[one.test!] }}</RouterLink
          >
          <span v-else-if="one.kind === 'test'" class="text-odd">a test that was deleted</span>
          <b v-else>{{ one.words }}</b>
        </span>
        <label class="flex items-center gap-1 text-soft"
          >rows
          <select
            class="field w-auto"
            :value="ROWS.includes(one.rows ?? 'all') ? one.rows : 'some'"
            :disabled="fixed"
            :aria-label="`Rows of pick ${place + 1}`"
            @change="rows(place, ($event.target as HTMLSelectElement).value)"
          >
            <option value="all">all</option>
            <option value="ticked">ticked</option>
            <option value="failed last">failed last time</option>
            <option value="some">some…</option>
          </select></label
        >
        <Draft
          v-if="!ROWS.includes(one.rows ?? 'all')"
          class="field w-36"
          :value="one.rows ?? ''"
          :disabled="fixed"
          :aria-label="`Which rows of pick ${place + 1}`"
          title="3, 2-5, 4- or 1,3,6-8; or: where clay = Raku"
          @save="change(place, { rows: $event })"
        />
        <button
          v-if="!fixed"
          class="button-bare px-1"
          :aria-label="`Take out pick ${place + 1}`"
          @click="put(picks.filter((_, n) => n !== place))"
        >
          <X :size="14" />
        </button>
      </li>
    </ul>
    <div v-if="!fixed" class="flex items-center gap-2 text-sm">
      <select v-model="kind" class="field w-auto" aria-label="Pick by">
        <option value="test">a test</option>
        <option value="label">a label</option>
        <option value="search">a search</option>
      </select>
      <PickOne
        v-if="kind === 'test'"
        v-model="test"
        :list="useTestNames"
        label="Test to add"
        hint="a part of its name"
      />
      <form v-else class="flex grow gap-2" @submit.prevent="addWords">
        <select v-if="kind === 'label'" v-model="words" class="field" aria-label="Label to add">
          <option value="" disabled>choose a label</option>
          <option v-for="(count, one) in labels.data.value?.labels" :key="one" :value="one">
            {{ one }} ({{ count }})
          </option>
        </select>
        <input
          v-else
          v-model="words"
          class="field"
          placeholder="a part of their names"
          aria-label="Search to add"
        />
        <button class="button" :disabled="!words.trim()">Add</button>
      </form>
    </div>
  </section>
</template>
