<script setup lang="ts">
/** What is wrong with a value, and values that would fit, to be picked. */
defineProps<{ wrong: { message: string; near: string[] }[] }>()
defineEmits<{ pick: [value: string] }>()
/** A value as it is said: names without the signs around them. */
const said = (value: string) => value.replace(/\$\{\w+\.(\w+)\}/g, '$1')
</script>

<template>
  <div v-if="wrong.length" class="text-sm" role="status" data-role="wrong">
    <template v-for="one in wrong" :key="one.message">
      <p class="text-bad wrap-anywhere">{{ one.message }}</p>
      <p v-if="one.near.length" class="mt-1 flex flex-wrap gap-1">
        <button
          v-for="value in one.near"
          :key="value"
          type="button"
          class="button py-0.5"
          data-role="near"
          :title="value"
          @mousedown.prevent
          @click.stop="$emit('pick', value)"
        >
          {{ said(value) }}
        </button>
      </p>
    </template>
  </div>
</template>
