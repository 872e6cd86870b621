<script setup lang="ts">
defineProps<{ title: string }>()
</script>

<template>
  <div class="panel flex flex-col items-center gap-3 border-dashed px-8 py-12 text-center">
    <p class="font-story text-lg">{{ title }}</p>
    <div class="max-w-md text-soft"><slot /></div>
  </div>
</template>
