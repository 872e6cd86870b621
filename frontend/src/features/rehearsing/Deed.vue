<script setup lang="ts">
/** What a sentence that was played really acted on, marked where that is not what people call it. */
defineProps<{ thing: string; contrary: string; calledSo: boolean }>()
</script>

<template>
  <p v-if="contrary" class="text-sm text-odd wrap-anywhere" data-role="contrary">{{ contrary }}</p>
  <p v-else-if="thing && !calledSo" class="text-xs text-soft wrap-anywhere" data-role="deed">
    acted on “{{ thing }}”
  </p>
</template>
