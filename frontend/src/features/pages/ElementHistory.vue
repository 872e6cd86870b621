<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import { ago, exact } from '@/shared/times'

/** Who changed an element and when, what differs, and going back. */
const props = defineProps<{ id: string; version: number; fixed: boolean }>()
defineEmits<{ restore: [version: number] }>()

const open = ref(false)
const query = useQuery({
  queryKey: computed(() => ['element', props.id, 'versions', props.version]),
  queryFn: () => ask(api.GET('/api/elements/{key}/versions', { params: { path: { key: props.id } } })),
  enabled: open,
})
const versions = computed(() => query.data.value?.versions ?? [])
</script>

<template>
  <details data-role="element-history" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary class="cursor-pointer font-medium">What it was</summary>
    <p v-if="query.data.value && versions.length < 2" class="text-soft">It was never changed.</p>
    <ol v-else class="mb-2">
      <li
        v-for="one in versions"
        :key="one.number"
        class="border-t border-line py-1"
        data-role="element-version"
      >
        <p class="flex items-baseline gap-2">
          <span class="min-w-0 flex-1 truncate" :title="exact(one.at)"
            >{{ one.author || 'Lantern' }}, {{ ago(one.at) }}</span
          >
          <button
            v-if="!fixed && one.there && one.now.length"
            class="button shrink-0"
            :title="`Back to this: ${one.now.join('; ')}`"
            @click="$emit('restore', one.number)"
          >
            Restore
          </button>
        </p>
        <p v-if="!one.there" class="text-bad">deleted</p>
        <p v-for="line in one.lines" :key="line" class="text-xs wrap-anywhere text-soft">{{ line }}</p>
      </li>
    </ol>
  </details>
</template>
