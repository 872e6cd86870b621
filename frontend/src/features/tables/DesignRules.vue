<script setup lang="ts">
import { Plus, X } from '@lucide/vue'
import { computed, nextTick, reactive, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import IconButton from '@/shared/IconButton.vue'
import Trouble from '@/shared/Trouble.vue'

/** The constraints of a design: put together from parts, or written as text. */
const props = defineProps<{ inputs: Required<Shapes['DesignInput']>[]; comparisons: string[] }>()
const rules = defineModel<string[]>({ required: true })

type Part = Shapes['RulePart']
const list = ref<HTMLElement>()
const trouble = ref<unknown>(null)
const empty = (): Part => ({ name: '', comparison: 'is', value: '' })
const when = ref<Part[]>([empty()])
const then = reactive<Part>(empty())

const combined = computed(() => props.inputs.filter((one) => one.values.length > 0))
const valuesOf = (name: string) => {
  const input = combined.value.find((one) => one.name === name)
  return input ? [...input.values, ...input.invalid] : []
}
const parts = computed(() => [
  ...when.value.map((part) => ({ part, then: false })),
  { part: then, then: true },
])
const conditions = computed(() => when.value.filter((part) => part.name))
const whole = computed(() => [...conditions.value, then].every((part) => part.name && part.value))

async function add() {
  trouble.value = null
  try {
    const body = { inputs: combined.value, when: conditions.value, then }
    const { text } = await ask(api.POST('/api/design/rule', { body }))
    if (!rules.value.includes(text)) rules.value = [...rules.value, text]
    when.value = [empty()]
    Object.assign(then, empty())
  } catch (error) {
    trouble.value = error
  }
}

async function write() {
  rules.value = [...rules.value, '']
  await nextTick()
  list.value?.querySelector<HTMLInputElement>('li:last-of-type input')?.focus()
}

const change = (place: number, text: string) => (rules.value = rules.value.with(place, text))
const remove = (place: number) => (rules.value = rules.value.toSpliced(place, 1))
</script>

<template>
  <fieldset data-role="rules">
    <legend class="mb-1">Constraints</legend>
    <ul ref="list" class="flex flex-col gap-1">
      <li v-for="(rule, place) in rules" :key="place" class="flex items-center gap-1">
        <input
          class="field"
          :value="rule"
          placeholder="if clay = Raku then rush = no"
          :aria-label="`Constraint ${place + 1}`"
          @input="change(place, ($event.target as HTMLInputElement).value)"
        />
        <IconButton :icon="X" :label="`Remove constraint ${place + 1}`" @click="remove(place)" />
      </li>
    </ul>
    <div class="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
      <template v-for="({ part, then: last }, place) in parts" :key="place">
        <span class="flex items-center gap-1">
          <span class="w-8 text-right text-soft">{{ last ? 'then' : place ? 'and' : 'if' }}</span>
          <select
            v-model="part.name"
            class="field w-auto max-w-40"
            :aria-label="`${last ? 'Then' : 'If'} column${place && !last ? ` ${place + 1}` : ''}`"
            @change="part.value = ''"
          >
            <option value="">{{ last || place ? 'a column…' : 'anything' }}</option>
            <option v-for="one in combined" :key="one.name">{{ one.name }}</option>
          </select>
          <template v-if="part.name">
            <select
              v-model="part.comparison"
              class="field w-auto"
              :aria-label="`${last ? 'Then' : 'If'} ${part.name} comparison`"
            >
              <option v-for="one in comparisons" :key="one">{{ one }}</option>
            </select>
            <select
              v-model="part.value"
              class="field w-auto max-w-40"
              :aria-label="`${last ? 'Then' : 'If'} ${part.name} value`"
            >
              <option v-for="one in valuesOf(part.name)" :key="one">{{ one }}</option>
            </select>
          </template>
        </span>
        <button
          v-if="!last && place === when.length - 1 && part.name"
          type="button"
          class="button-bare"
          title="One more condition"
          @click="when.push(empty())"
        >
          and…
        </button>
      </template>
      <button type="button" class="button-bare ml-auto" title="Write one as text" @click="write">
        Write one
      </button>
      <button type="button" class="button" :disabled="!whole" @click="add">
        <Plus :size="16" /> Add constraint
      </button>
    </div>
    <Trouble :error="trouble" />
  </fieldset>
</template>
