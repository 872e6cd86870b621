<script setup lang="ts">
import { say } from './notes'

/** Something secret that is told only now, to be copied. */
const props = defineProps<{ text: string; what: string }>()
async function copy() {
  await navigator.clipboard.writeText(props.text)
  say(`The ${props.what} is copied.`)
}
</script>

<template>
  <div class="mb-3 rounded-md border border-lit bg-lit-paper p-3 text-sm" data-role="made-token">
    <p class="mb-1">Copy it now: it is not told again.</p>
    <p class="flex items-center gap-2">
      <code class="min-w-0 flex-1 wrap-anywhere">{{ text }}</code>
      <button class="button" @click="copy">Copy</button>
    </p>
  </div>
</template>
