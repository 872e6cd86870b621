<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'
import { useBrowsers } from '@/api/queries'
import { vScrolls } from '@/shared/scrolls'

import type { Body, Plan } from './usePlan'

/** The matrix of tests and browsers; a cell that is not ticked is not played. */
const props = defineProps<{ plan: Plan; fixed: boolean; outlook?: Shapes['OutlookOut'] }>()
const emit = defineEmits<{ save: [parts: Partial<Body>] }>()
const browsers = useBrowsers()
const known = computed(() => browsers.data.value?.browsers ?? [])
const chosen = computed(() => props.plan.plan.browsers ?? [])
const columns = computed(() => {
  const usual = known.value[0]
  if (!chosen.value.length) return usual ? [usual] : []
  return known.value.filter((one) => chosen.value.includes(one.name))
})
const left = computed(() => props.plan.plan.left_out ?? [])
const tests = computed(() => [...new Map(props.outlook?.tests.map((one) => [one.id, one])).values()])
const out = (test: number, browser: string) =>
  left.value.some((one) => one.test === test && one.browser === browser)

function toggle(test: number, browser: string) {
  const others = left.value.filter((one) => one.test !== test || one.browser !== browser)
  emit('save', { left_out: out(test, browser) ? others : [...others, { test, browser }] })
}
function choose(name: string) {
  const now = chosen.value.includes(name)
    ? chosen.value.filter((one) => one !== name)
    : known.value.map((one) => one.name).filter((one) => one === name || chosen.value.includes(one))
  emit('save', { browsers: now })
}
</script>

<template>
  <section class="panel p-4" data-role="cells">
    <h2 class="mb-2 text-sm font-semibold">In which browsers</h2>
    <div class="mb-3 flex flex-wrap gap-x-4 gap-y-1 text-sm">
      <label v-for="one in known" :key="one.name" class="flex items-center gap-1.5" :data-browser="one.name">
        <input
          type="checkbox"
          :checked="chosen.includes(one.name)"
          :disabled="fixed"
          @change="choose(one.name)"
        />
        <span :title="one.versions.join(', ')">{{ one.title }}</span>
        <span
          v-if="!one.stations"
          class="text-xs text-odd"
          :title="one.package ? `Install ${one.package} on a station` : 'Its address takes no session now'"
          >no station has it</span
        >
      </label>
      <span v-if="!chosen.length" class="text-soft">none ticked: {{ known[0]?.title }}</span>
    </div>
    <div v-if="tests.length" v-scrolls class="max-h-80 overflow-auto">
      <table class="list-table text-sm">
        <thead>
          <tr>
            <th>Test</th>
            <th v-for="one in columns" :key="one.name" class="text-center">{{ one.title }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in tests" :key="one.id">
            <td class="max-w-72 truncate">{{ one.name }}</td>
            <td v-for="column in columns" :key="column.name" class="text-center">
              <input
                type="checkbox"
                :checked="!out(one.id, column.name)"
                :disabled="fixed"
                :aria-label="`Play ${one.name} in ${column.title}`"
                @change="toggle(one.id, column.name)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
