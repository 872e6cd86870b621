<script setup lang="ts">
import { computed, useId } from 'vue'

import { useChoices } from './choices'

/** By which template a report is made, and as which form. */
const template = defineModel<string>('template', { required: true })
const form = defineModel<string>('form', { required: true })
defineProps<{ trends: boolean }>()
const choices = useChoices()
const group = useId()
const whole = computed(
  () => choices.data.value?.forms.find((one) => one.name === form.value)?.templated === false,
)
</script>

<template>
  <div class="grid gap-4 sm:grid-cols-[1fr_14rem]">
    <fieldset :disabled="whole">
      <legend class="mb-1 font-semibold">What it tells</legend>
      <label
        v-for="one in choices.data.value?.templates"
        :key="one.name"
        class="flex items-baseline gap-2 py-0.5"
        :class="{ 'text-soft': whole }"
      >
        <input v-model="template" type="radio" :name="group" :value="one.name" />
        <span
          ><b class="font-semibold">{{ one.title }}</b> <span class="text-soft">{{ trends ? one.of_trends : one.told }}</span></span
        >
      </label>
      <p v-if="whole" class="text-xs text-soft">This form always holds all of it.</p>
    </fieldset>
    <label class="font-semibold"
      >As
      <select v-model="form" class="field mt-1 font-normal" name="form">
        <option v-for="one in choices.data.value?.forms" :key="one.name" :value="one.name">
          {{ one.title }}
        </option>
      </select>
    </label>
  </div>
</template>
