<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { Bell } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import { useAct } from './acting'
import { ago } from './times'

/** Comments that mention one: how many are new, and where they are. */
const query = useQuery({
  queryKey: ['notices'],
  queryFn: () => ask(api.GET('/api/notices')),
})
const unseen = computed(() => query.data.value?.unseen ?? 0)
const { act: see } = useAct(() => ask(api.POST('/api/notices/seen')), { stale: [['notices']] })
const words = computed(() =>
  unseen.value ? `${unseen.value} new comments mention you` : 'Comments that mention you',
)
</script>

<template>
  <Popover class="relative flex">
    <PopoverButton class="button-bare relative" :aria-label="words" :title="words" data-role="bell">
      <Bell :size="16" />
      <span
        v-if="unseen"
        class="absolute -top-1 -right-1 min-w-4 rounded-full bg-act px-1 text-center text-[10px] leading-4 font-semibold text-act-ink"
        aria-hidden="true"
        >{{ unseen }}</span
      >
    </PopoverButton>
    <PopoverPanel v-slot="{ close }" class="floating absolute right-0 z-30 mt-1 w-88 p-2 text-sm">
      <p class="mb-1 flex px-1 text-xs text-soft">
        Comments that mention you
        <button v-if="unseen" class="ml-auto underline" @click="see()">I have seen them</button>
      </p>
      <ul class="max-h-96 overflow-auto" tabindex="0" aria-label="Comments that mention you">
        <li v-for="one in query.data.value?.notices" :key="one.comment.id">
          <RouterLink
            class="block rounded px-2 py-1.5 hover:bg-sunk"
            :class="!one.seen && 'font-medium'"
            :to="one.link"
            data-role="notice"
            @click="(close(), see())"
          >
            <span class="block text-xs text-soft">{{ one.comment.author }}, {{ ago(one.comment.at) }}</span>
            <span class="line-clamp-2 wrap-anywhere">{{ one.comment.text }}</span>
          </RouterLink>
        </li>
        <li v-if="!query.data.value?.notices.length" class="px-2 py-1.5 text-soft">None yet.</li>
      </ul>
    </PopoverPanel>
  </Popover>
</template>
