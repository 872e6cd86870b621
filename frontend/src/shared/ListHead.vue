<script setup lang="ts">
/** What stands over a list: its title, a search in it, filters, and at the end what can be done. */
defineProps<{ title: string; search?: string; hint?: string }>()
const words = defineModel<string>('words', { default: '' })
defineSlots<{ default?: () => unknown; acts?: () => unknown }>()
</script>

<template>
  <div class="mb-4 flex flex-wrap items-center gap-3">
    <h1 class="heading">{{ title }}</h1>
    <input
      v-if="search"
      v-model="words"
      class="field ml-4 max-w-64"
      type="search"
      :placeholder="hint ?? search"
      :aria-label="search"
    />
    <slot />
    <div v-if="$slots.acts" class="ml-auto flex items-center gap-2"><slot name="acts" /></div>
  </div>
</template>
