<script setup lang="ts">
import type { Component } from 'vue'

/** A button that is only an icon: `label` names it for the ear, `title` explains it to the eye. */
defineProps<{ icon: Component; label: string; title?: string; disabled?: boolean }>()
</script>

<template>
  <button type="button" class="button-bare" :aria-label="label" :title="title ?? label" :disabled="disabled">
    <component :is="icon" :size="16" />
  </button>
</template>
