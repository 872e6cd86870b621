<script setup lang="ts" generic="Value extends string">
/** One setting of a plan that is chosen among few: `options` says each value in words. */
defineProps<{ label: string; title?: string; options: Record<Value, string>; value?: Value }>()
const emit = defineEmits<{ choose: [value: Value] }>()
</script>

<template>
  <label class="flex items-center justify-between gap-2"
    >{{ label }}
    <select
      class="field w-44"
      :value
      :title
      :aria-label="label"
      @change="emit('choose', ($event.target as HTMLSelectElement).value as Value)"
    >
      <option v-for="(words, one) in options" :key="one" :value="one">{{ words }}</option>
    </select></label
  >
</template>
