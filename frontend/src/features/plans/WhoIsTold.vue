<script setup lang="ts">
import { X } from '@lucide/vue'
import { computed, ref } from 'vue'

import type { Shapes } from '@/api/client'
import PickOne from '@/shared/PickOne.vue'
import { usePeople } from '@/shared/lists'

import type { Body, Plan } from './usePlan'

/** Who gets mails about runs of a plan: people, and those whom a failure concerns. */
type Tell = Shapes['TellShape']
type When = NonNullable<Tell['when']>[number]
const props = defineProps<{ plan: Plan; fixed: boolean }>()
const emit = defineEmits<{ save: [parts: Partial<Body>] }>()

const WHEN: { when: When; head: string; words: string }[] = [
  { when: 'failed', head: 'Fails', words: 'when it fails' },
  { when: 'fixed', head: 'Fixed', words: 'when it passes after it failed' },
  { when: 'always', head: 'Always', words: 'whenever it ends' },
  { when: 'digest', head: 'Daily', words: 'in one mail a day' },
]
const GROUPS: { whom: NonNullable<Tell['whom']>; name: string }[] = [
  { whom: 'owners', name: 'Owners of its tests' },
  { whom: 'changers', name: 'Who changed what fails' },
]
/** What people are called who were added at this desk. */
const added = ref<Record<number, string>>({})
const tells = computed(() => props.plan.plan.tells ?? [])
const named = (id: number) => props.plan.people[id] ?? added.value[id] ?? 'somebody who is gone'
const lines = computed(() => [
  ...GROUPS.map((group) => ({ ...group, account: 0 })),
  ...tells.value
    .filter((one) => one.whom === 'person')
    .map((one) => ({ whom: 'person' as const, account: one.account ?? 0, name: named(one.account ?? 0) })),
])
type Line = (typeof lines.value)[number]
const same = (one: Tell, line: Line) => one.whom === line.whom && (one.account ?? 0) === line.account
const has = (line: Line, when: When) => tells.value.find((one) => same(one, line))?.when?.includes(when)

function toggle(line: Line, when: When) {
  const now = tells.value.find((one) => same(one, line))?.when ?? []
  const then = now.includes(when) ? now.filter((one) => one !== when) : [...now, when]
  put(line, then)
}
function put(line: Pick<Line, 'whom' | 'account'>, when: When[]) {
  const others = tells.value.filter((one) => !same(one, line as Line))
  const made = { whom: line.whom, account: line.account, when }
  emit('save', { tells: when.length ? [...others, made] : others })
}
const fresh = computed({
  get: () => null,
  set: (one: { id: number; name: string } | null) => {
    if (!one || tells.value.some((told) => told.account === one.id)) return
    added.value[one.id] = one.name
    put({ whom: 'person', account: one.id }, ['failed', 'fixed'])
  },
})
const address = (one: Shapes['Person']) => one.email || 'no mail address'
</script>

<template>
  <section class="panel p-4 text-sm" data-role="tells">
    <h2 class="mb-2 font-semibold">Who is told by mail</h2>
    <fieldset :disabled="fixed">
      <table class="w-full">
        <thead>
          <tr class="text-xs text-soft">
            <th class="text-left font-normal"><span class="sr-only">Who</span></th>
            <th v-for="one in WHEN" :key="one.when" class="w-16 font-normal" :title="one.words">
              {{ one.head }}
            </th>
            <th class="w-6"><span class="sr-only">Take off</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in lines" :key="`${line.whom} ${line.account}`" :data-told="line.name">
            <td class="max-w-64 truncate py-0.5" :title="line.name">{{ line.name }}</td>
            <td v-for="one in WHEN" :key="one.when" class="text-center">
              <input
                type="checkbox"
                :checked="has(line, one.when)"
                :aria-label="`${line.name}: ${one.words}`"
                :title="one.words"
                @change="toggle(line, one.when)"
              />
            </td>
            <td>
              <button
                v-if="line.whom === 'person' && !fixed"
                class="button-bare p-0.5"
                :aria-label="`Take ${line.name} off the list`"
                @click="put(line, [])"
              >
                <X :size="13" />
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-if="!fixed" class="mt-2 max-w-72">
        <PickOne v-model="fresh" :list="usePeople" label="Add a person" hint="Add a person" :more="address" />
      </div>
    </fieldset>
  </section>
</template>
