<script setup lang="ts">
import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogPanel,
} from '@headlessui/vue'
import { useQuery } from '@tanstack/vue-query'
import { useEventListener, useDebounce } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'

interface Entry {
  kind: string
  title: string
  detail: string
  link: string
}

const open = defineModel<boolean>('open', { required: true })
const words = ref('')
const query = useDebounce(words, 120)
const router = useRouter()

const ACTIONS: Entry[] = [
  { kind: 'do', title: 'New test', detail: 'Record something', link: '/tests?new=1' },
  { kind: 'go', title: 'Tests', detail: '', link: '/tests' },
  { kind: 'go', title: 'Blind spots', detail: 'What checks would not notice', link: '/blind-spots' },
  { kind: 'go', title: 'Plans', detail: '', link: '/plans' },
  { kind: 'go', title: 'Calendar', detail: '', link: '/plans/calendar' },
  { kind: 'go', title: 'Runs', detail: '', link: '/runs' },
  { kind: 'go', title: 'Failed runs', detail: '', link: '/runs?state=failed' },
  { kind: 'go', title: 'Requirements', detail: 'What covers them', link: '/requirements' },
  { kind: 'go', title: 'Trends', detail: '', link: '/trends' },
  { kind: 'go', title: 'Defects', detail: '', link: '/defects' },
  { kind: 'go', title: 'Stations', detail: '', link: '/stations' },
  { kind: 'go', title: 'Settings', detail: '', link: '/settings' },
]

const found = useQuery({
  queryKey: ['search', query],
  queryFn: () => ask(api.GET('/api/search', { params: { query: { q: query.value } } })),
  enabled: open,
})

const entries = computed<Entry[]>(() => {
  const wanted = words.value.trim().toLowerCase()
  const own = ACTIONS.filter((entry) => entry.kind !== 'do' || mayChange())
  return [
    ...own.filter((entry) => wanted && entry.title.toLowerCase().includes(wanted)),
    ...(found.data.value?.found ?? []),
    ...(wanted ? [] : own),
  ]
})

watch(open, () => (words.value = ''))
useEventListener('keydown', (event: KeyboardEvent) => {
  if (event.key.toLowerCase() === 'j' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    open.value = !open.value
  }
})

function go(entry: Entry | null) {
  if (!entry) return
  open.value = false
  void router.push(entry.link)
}
</script>

<template>
  <Dialog :open="open" class="relative z-40" @close="open = false">
    <div class="fixed inset-0 bg-black/30" aria-hidden="true" />
    <div class="fixed inset-x-0 top-[12vh] flex justify-center">
      <DialogPanel class="floating w-[36rem]">
        <Combobox :model-value="null" @update:model-value="go">
          <ComboboxInput
            class="w-full rounded-t-lg border-b border-line bg-transparent px-4 py-3 text-base outline-none"
            placeholder="A test, plan, element, run or defect, or something to do"
            aria-label="Go to"
            autocomplete="off"
            @change="words = $event.target.value"
          />
          <ComboboxOptions static class="max-h-80 overflow-auto p-1">
            <ComboboxOption
              v-for="entry in entries"
              :key="entry.kind + entry.link + entry.title"
              v-slot="{ active }"
              :value="entry"
            >
              <div class="flex items-baseline gap-3 rounded px-3 py-1.5" :class="active && 'bg-sunk'">
                <span class="w-14 shrink-0 text-xs text-soft">{{ entry.kind }}</span>
                <span class="truncate">{{ entry.title }}</span>
                <span class="ml-auto shrink-0 text-xs text-soft">{{ entry.detail }}</span>
              </div>
            </ComboboxOption>
            <div v-if="entries.length === 0" class="px-4 py-3 text-soft">Nothing has that name.</div>
          </ComboboxOptions>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
