<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'

defineProps<{ title: string; wide?: boolean }>()
const open = defineModel<boolean>('open', { required: true })
</script>

<template>
  <Dialog :open="open" class="relative z-40" @close="open = false">
    <div class="fixed inset-0 bg-black/30" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center overflow-auto pt-[10vh] pb-8">
      <DialogPanel class="floating p-5" :class="wide ? 'w-[48rem]' : 'w-[30rem]'">
        <DialogTitle class="mb-3 font-story text-xl">{{ title }}</DialogTitle>
        <slot />
      </DialogPanel>
    </div>
  </Dialog>
</template>
