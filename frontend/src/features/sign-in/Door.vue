<script setup lang="ts">
/** The frame of what is asked before anybody is signed in. */
defineProps<{ title: string }>()
const emit = defineEmits<{ enter: [] }>()
</script>

<template>
  <div class="flex h-full items-center justify-center px-4">
    <form class="panel w-88 p-6" @submit.prevent="emit('enter')">
      <div class="mb-5 flex items-center gap-3">
        <img src="/lantern.svg" alt="" class="size-10" />
        <h1 class="heading">{{ title }}</h1>
      </div>
      <slot />
    </form>
  </div>
</template>
