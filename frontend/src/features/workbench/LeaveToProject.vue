<script setup lang="ts">
/** Beside a setting of a test: whether it is as the project says, and how to leave it to that. */
defineProps<{ what: string; left: boolean; fixed: boolean }>()
defineEmits<{ leave: [] }>()
</script>

<template>
  <span v-if="left" class="text-soft">as the project says</span>
  <button
    v-else
    type="button"
    class="button-bare underline decoration-dotted"
    :disabled="fixed"
    :aria-label="`leave to the project: ${what}`"
    @click="$emit('leave')"
  >
    leave to the project
  </button>
</template>
