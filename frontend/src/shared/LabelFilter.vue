<script setup lang="ts">
import { useLabels } from '@/api/queries'

/** Narrows a list to what has a label; not there while no test has any. */
const label = defineModel<string>({ required: true })
const labels = useLabels()
</script>

<template>
  <label
    v-if="label || Object.keys(labels.data.value?.labels ?? {}).length"
    class="flex items-center gap-2 text-sm text-soft"
  >
    Label
    <select v-model="label" class="field w-auto max-w-48">
      <option value="">any</option>
      <option v-for="(tests, one) in labels.data.value?.labels" :key="one" :value="one">
        {{ one }} ({{ tests }})
      </option>
    </select>
  </label>
</template>
