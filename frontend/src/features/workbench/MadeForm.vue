<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Catalogue } from '@/api/client'

/** A value that is made up anew for each row: what kind, and from what. */
const props = defineProps<{ catalogue: Catalogue; value: string }>()
defineEmits<{ save: [value: string] }>()

const ways = computed(() => props.catalogue.made)
const now = computed(() => /^\$\{(\w+)\((.*)\)\}$/.exec(props.value.trim()))
const which = ref(now.value?.[1] ?? 'integer')
const way = computed(() => ways.value.find((one) => one.name === which.value))
const texts = ref<string[]>([])

/** The arguments of the value as it stands, each as it is typed into the form. */
function given(): string[] {
  const found: string[] = []
  for (const [, quoted, plain] of (now.value?.[2] ?? '').matchAll(/"((?:[^"\\]|\\.)*)"|([^,\s]+)/g))
    found.push(quoted === undefined ? (plain ?? '') : (JSON.parse(`"${quoted}"`) as string))
  return found
}
watch(
  way,
  (one) => {
    const had = one?.name === now.value?.[1] ? given() : []
    texts.value = (one?.parts ?? []).map((part, n) =>
      part.kind === 'texts' ? had.join('\n') : (had[n] ?? part.default),
    )
  },
  { immediate: true },
)
const made = computed(() => {
  const args = (way.value?.parts ?? []).flatMap((part, n) => {
    const text = String(texts.value[n] ?? '').trim() // number fields give numbers
    if (part.kind === 'texts')
      return text
        .split('\n')
        .map((line) => line.trim())
        .filter(Boolean)
        .map((line) => JSON.stringify(line))
    if (part.optional && !text) return []
    return [part.kind === 'number' ? text : JSON.stringify(text)]
  })
  return `\${${which.value}(${args.join(', ')})}`
})
</script>

<template>
  <form class="flex flex-col gap-2" data-role="made-form" @submit.prevent="$emit('save', made)">
    <label>
      Made up anew for each row
      <select v-model="which" class="field mt-1" aria-label="Kind of made-up value">
        <option v-for="one in ways" :key="one.name" :value="one.name">{{ one.title }}</option>
      </select>
    </label>
    <label v-for="(part, n) in way?.parts ?? []" :key="part.name">
      <span class="text-soft">{{ part.name }}</span>
      <textarea v-if="part.kind === 'texts'" v-model="texts[n]" class="field mt-1" rows="3" required />
      <input
        v-else
        v-model="texts[n]"
        class="field mt-1"
        :type="part.kind === 'number' ? 'number' : 'text'"
        step="any"
        :required="!part.optional"
        :aria-label="part.name"
      />
    </label>
    <button class="button self-end">Use it</button>
  </form>
</template>
