<script setup lang="ts">
import { ChevronDown, ChevronUp } from '@lucide/vue'
import { computed } from 'vue'

import type { Tab } from './drawer'

/** The tabs of the drawer: those that are always there, and what is being looked at. */
const props = defineProps<{ flow: boolean; rows: number; element: boolean; check: boolean }>()
const tab = defineModel<Tab>('tab', { required: true })
const folded = defineModel<boolean>('folded', { required: true })

/** A flow has inputs where a test has rows. */
const tabs = computed<{ key: Tab; name: string }[]>(() => [
  props.flow ? { key: 'calling', name: 'Inputs and outputs' } : { key: 'rows', name: `Rows (${props.rows})` },
  { key: 'values', name: 'Constants' },
  { key: 'files', name: 'Files' },
  { key: 'run', name: 'Last run' },
  { key: 'settings', name: 'Limits' },
  { key: 'shape', name: 'Shape' },
  { key: 'text', name: 'Text' },
  { key: 'versions', name: 'Versions' },
  ...(props.element ? [{ key: 'element', name: 'Element' } as const] : []),
  ...(props.check ? [{ key: 'check', name: 'Check' } as const] : []),
])
</script>

<template>
  <div class="flex items-center gap-1 border-b border-line px-2 py-0.5 text-sm" role="tablist">
    <button
      v-for="one in tabs"
      :key="one.key"
      role="tab"
      class="rounded px-2 py-1"
      :class="tab === one.key ? 'font-semibold' : 'text-soft hover:text-ink'"
      :aria-selected="tab === one.key"
      @click="((tab = one.key), (folded = false))"
    >
      {{ one.name }}
    </button>
    <button
      class="button-bare ml-auto"
      :aria-label="folded ? 'Open the drawer' : 'Fold the drawer'"
      @click="folded = !folded"
    >
      <component :is="folded ? ChevronUp : ChevronDown" :size="16" />
    </button>
  </div>
</template>
