<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Check, CheckAs, Picked, Tried } from '@/features/live/useLive'

/** What to check of the thing that was pointed at: several properties at once. */
const props = defineProps<{ picked: Picked; tried: Tried[] }>()
const emit = defineEmits<{ add: [checks: Check[], as: CheckAs]; try: [checks: Check[]]; close: [] }>()

interface Choice {
  name: string
  on: boolean
  comparison: string
  expected: string
  common: boolean
}

const words = ref('')
const all = ref(false)
const choices = ref<Choice[]>([])
watch(
  () => props.picked,
  (picked) => {
    words.value = ''
    all.value = false
    choices.value = picked.properties.map((one) => ({
      name: one.name,
      on: one.first,
      comparison: 'is',
      expected: one.value,
      common: one.common,
    }))
  },
  { immediate: true },
)
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  return choices.value.filter(
    (one) =>
      one.on ||
      (wanted ? `${one.name} ${one.expected}`.toLowerCase().includes(wanted) : all.value || one.common),
  )
})
const chosen = computed(() => choices.value.filter((one) => one.on))
const hidden = computed(() => choices.value.filter((one) => !one.common).length)

const asked = computed(() =>
  chosen.value.map(({ name, comparison, expected }) => ({ property: name, comparison, expected })),
)
/** Each check is tried as it is written: what would it find now? */
const ask = useDebounceFn(() => asked.value.length && emit('try', asked.value), 250)
watch(asked, () => void ask(), { immediate: true, deep: true })
const found = (one: Choice) =>
  one.on ? props.tried.find(({ property }) => property === one.name) : undefined

function add(as: CheckAs = 'check') {
  emit('add', asked.value, as)
}
</script>

<template>
  <form class="flex h-full min-h-0 flex-col" data-role="check-panel" @submit.prevent="add()">
    <div class="flex items-center gap-3 border-b border-line px-3 py-1.5 text-sm">
      <span class="truncate">
        <b>{{ picked.name }}</b>{{ ' ' }}
        <span class="text-soft">{{ picked.kind }} · clues: {{ picked.clues.join(', ') }}</span>
      </span>
      <input
        v-model="words"
        class="field ml-auto max-w-52"
        type="search"
        placeholder="Search all properties"
        aria-label="Search properties"
      />
      <button type="button" class="button" @click="emit('close')">Close</button>
      <button
        type="button"
        class="button"
        title="Keep these for later sentences and for the results"
        :disabled="chosen.length === 0"
        @click="add('keep')"
      >
        Keep
      </button>
      <button
        type="button"
        class="button"
        title="Go on as soon as it is so, up to the time limit"
        :disabled="chosen.length === 0"
        @click="add('wait until')"
      >
        Wait until
      </button>
      <button class="button button-main" :disabled="chosen.length === 0">
        Add {{ chosen.length > 1 ? `${chosen.length} checks` : 'the check' }}
      </button>
    </div>
    <div class="min-h-0 flex-1 overflow-auto px-3 py-1">
      <div
        v-for="one in shown"
        :key="one.name"
        class="grid grid-cols-[13rem_11rem_1fr_14rem] items-center gap-2 py-0.5 text-sm"
      >
        <label class="flex items-center gap-2 truncate" :title="one.name">
          <input v-model="one.on" type="checkbox" :name="`check ${one.name}`" /> {{ one.name }}
        </label>
        <select v-model="one.comparison" class="field" :aria-label="`How ${one.name} is compared`">
          <option v-for="comparison in picked.comparisons" :key="comparison">{{ comparison }}</option>
        </select>
        <input
          v-model="one.expected"
          class="field"
          :aria-label="`Expected ${one.name}`"
          @input="one.on = true"
        />
        <span
          v-if="found(one)"
          class="truncate text-xs"
          :class="found(one)!.holds ? 'text-good' : 'text-bad'"
          :title="found(one)!.why || found(one)!.found"
          data-role="tried"
        >
          <template v-if="found(one)!.holds">holds now</template>
          <template v-else-if="found(one)!.why">{{ found(one)!.why }}</template>
          <template v-else>now it is “{{ found(one)!.found }}”</template>
        </span>
      </div>
      <p v-if="shown.length === 0" class="py-2 text-soft">No property has that name.</p>
      <button
        v-if="!all && !words && hidden"
        type="button"
        class="button-bare mt-1 underline"
        @click="all = true"
      >
        Show {{ hidden }} more
      </button>
    </div>
  </form>
</template>
