<script setup lang="ts">
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

import DesignGroups from './DesignGroups.vue'
import DesignRules from './DesignRules.vue'
import type { Edits } from '@/features/editing/useEdits'

/** Few rows that bring the values of the columns together: asked for, looked at, then written. */
const props = defineProps<{ test: Test; edits: Edits }>()
const open = defineModel<boolean>('open', { required: true })

const queries = useQueryClient()
const columns = ref<{ name: string; values: string; invalid: string }[]>([])
const constraints = ref<string[]>([])
const comparisons = ref<string[]>([])
const how = ref('pairs')
const groups = ref<Required<Shapes['DesignGroup']>[]>([])
const seed = ref(1)
const ways = ref<string[]>([])
const made = ref<Shapes['DesignOut'] | null>(null)
const refused = ref<unknown>(null)

const path = computed(() => ({ params: { path: { id: props.test.id } } }))
const lines = (text: string) => [...new Set(text.split('\n').map((line) => line.trim()))].filter(Boolean)

const inputs = computed(() =>
  columns.value.map(({ name, values, invalid }) => ({
    name,
    values: lines(values),
    invalid: lines(invalid),
  })),
)
const combined = computed(() => inputs.value.filter((one) => one.values.length > 0).map((one) => one.name))

watch(open, async (now) => {
  if (!now) return
  made.value = refused.value = null
  designing.forget()
  try {
    const start = await ask(api.GET('/api/tests/{id}/design', path.value))
    columns.value = start.design.inputs.map((one) => ({
      name: one.name,
      values: one.values.join('\n'),
      invalid: (one.invalid ?? []).join('\n'),
    }))
    constraints.value = start.design.constraints ?? []
    comparisons.value = start.comparisons
    how.value = start.design.how ?? 'pairs'
    groups.value = start.design.groups ?? []
    seed.value = start.design.seed ?? 1
    ways.value = start.ways
  } catch (error) {
    refused.value = error
  }
})
watch([columns, constraints, groups, how, seed], () => (made.value = null), { deep: true })

const designing = useAct(
  (write: boolean) => {
    const body = {
      inputs: inputs.value,
      constraints: constraints.value.filter((rule) => rule.trim()),
      how: how.value,
      groups: groups.value.filter((group) => group.inputs.length > 0),
      seed: seed.value,
      base: props.test.version,
      write,
    }
    return ask(api.POST('/api/tests/{id}/design', { ...path.value, body }))
  },
  {
    inPlace: true,
    done: (now, write) => {
      made.value = now
      if (!write || !now.test) return
      queries.setQueryData(['test', props.test.id], now.test)
      say(`The table has ${now.test.row_count} rows now.`, () => void props.edits.undo())
      open.value = false
    },
  },
)
const { act: design, busy } = designing
const trouble = computed(() => refused.value ?? designing.trouble.value)

const those = (forbidden: boolean) =>
  (made.value?.combinations ?? []).filter((one) => one.forbidden === forbidden)
const covered = computed(() => those(false))
const forbidden = computed(() => those(true))
const words = (values: Record<string, string>) =>
  Object.entries(values)
    .map(([name, value]) => `${name} ${value}`)
    .join(', ')
</script>

<template>
  <Modal v-model:open="open" title="Design variations" wide>
    <form class="flex flex-col gap-3 text-sm" @submit.prevent="design(false)">
      <p class="text-soft">
        Few rows that bring the values together. One value a line; what the application is to refuse gets rows
        of its own. A column without values is left alone.
      </p>
      <div class="max-h-56 overflow-auto">
        <table class="w-full">
          <thead class="text-left text-xs text-soft">
            <tr>
              <th class="w-36">Column</th>
              <th>Values</th>
              <th class="w-44">To be refused</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in columns" :key="one.name" class="align-top">
              <td class="py-1 pr-2 font-medium wrap-anywhere">{{ one.name }}</td>
              <td class="py-1 pr-2">
                <textarea
                  v-model="one.values"
                  class="field"
                  :rows="Math.min(Math.max(lines(one.values).length, 1), 4)"
                  :aria-label="`Values of ${one.name}`"
                />
              </td>
              <td class="py-1">
                <textarea
                  v-model="one.invalid"
                  class="field"
                  rows="1"
                  :aria-label="`Values of ${one.name} to be refused`"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <DesignRules v-model="constraints" :inputs="inputs" :comparisons="comparisons" />
      <DesignGroups v-model="groups" :columns="combined" />
      <div class="flex items-center gap-3">
        <label class="flex items-center gap-2"
          >cover
          <select v-model="how" class="field w-auto" aria-label="What to cover">
            <option v-for="way in ways" :key="way">{{ way }}</option>
          </select></label
        >
        <label class="flex items-center gap-2"
          >seed <input v-model.number="seed" class="field w-20" type="number" aria-label="Seed"
        /></label>
        <button class="button ml-auto" :disabled="busy">{{ busy ? 'Designing…' : 'Design' }}</button>
        <button
          type="button"
          class="button button-main"
          :disabled="!made || busy"
          title="Rows made by hand and expected values stay; this can be undone"
          @click="design(true)"
        >
          Write into the table
        </button>
      </div>
      <Trouble :error="trouble" />
      <section v-if="made" data-role="designed">
        <TabGroup>
          <TabList class="mb-1 flex gap-4">
            <Tab
              v-for="label in [
                `${made.rows.length} rows${made.go.length ? `, ${made.go.length} go` : ''}`,
                `${made.covered} combinations covered`,
                `${made.forbidden} forbidden`,
              ]"
              :key="label"
              v-slot="{ selected }"
              type="button"
            >
              <span :class="selected ? 'font-semibold' : 'text-soft hover:text-ink'">{{ label }}</span>
            </Tab>
          </TabList>
          <TabPanels class="panel max-h-44 overflow-auto px-3 py-1">
            <TabPanel as="ol">
              <li v-for="(row, place) in made.rows" :key="place" class="flex gap-2 py-0.5">
                <span class="w-7 shrink-0 text-soft">{{ place + 1 }}</span>
                <span class="wrap-anywhere">{{ Object.values(row.values).join(' · ') }}</span>
                <span class="ml-auto flex shrink-0 gap-1">
                  <span v-if="row.origin !== 'designed'" class="chip">{{
                    row.origin === 'kept' ? 'made by hand' : 'to be refused'
                  }}</span>
                  <span class="chip" data-role="comes-or-stays">{{ row.comes ? 'comes' : 'stays' }}</span>
                </span>
              </li>
              <li
                v-for="row in made.go"
                :key="`going ${row.number}`"
                class="flex gap-2 py-0.5 text-bad"
                data-role="goes"
              >
                <span class="w-7 shrink-0">{{ row.number }}</span>
                <s class="wrap-anywhere">{{ Object.values(row.values).join(' · ') }}</s>
                <span class="chip ml-auto shrink-0">goes</span>
              </li>
            </TabPanel>
            <TabPanel v-for="(listed, at) in [covered, forbidden]" :key="at" as="ol">
              <li v-for="(one, place) in listed" :key="place" class="flex gap-2 py-0.5">
                <span class="wrap-anywhere">{{ words(one.values) }}</span>
                <span class="ml-auto shrink-0 text-soft">{{ one.row ? `row ${one.row}` : 'forbidden' }}</span>
              </li>
              <li v-if="listed.length === 0" class="py-1 text-soft">None.</li>
            </TabPanel>
          </TabPanels>
        </TabGroup>
      </section>
    </form>
  </Modal>
</template>
