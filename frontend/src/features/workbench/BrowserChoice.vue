<script setup lang="ts">
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/vue'
import { Check } from '@lucide/vue'
import { computed } from 'vue'

import { useBrowsers } from '@/api/queries'

/** In which browsers each row is played; none for the usual one. */
const chosen = defineModel<string[]>({ required: true })
const browsers = useBrowsers()
const listed = computed(() => browsers.data.value?.browsers ?? [])
const usual = computed(() => listed.value[0]?.title ?? 'Chromium')
const words = computed(() => {
  const names = listed.value.filter((one) => chosen.value.includes(one.name)).map((one) => one.title)
  return names.length > 1 ? `${names.length} browsers` : (names[0] ?? usual.value)
})
</script>

<template>
  <Listbox v-model="chosen" as="div" class="relative" multiple>
    <ListboxButton
      class="button max-w-44"
      data-role="browsers"
      :aria-label="`Browsers to run in: ${words}`"
      title="Each row is played in each of these; a row that names its own browser is played in that"
    >
      <span class="truncate">{{ words }}</span>
    </ListboxButton>
    <ListboxOptions class="floating absolute right-0 z-20 mt-1 w-80 p-1 text-sm">
      <ListboxOption
        v-for="one in listed"
        :key="one.name"
        v-slot="{ active, selected }"
        :value="one.name"
        as="template"
      >
        <li
          class="flex cursor-pointer items-center gap-2 rounded px-2 py-1"
          :class="active && 'bg-sunk'"
          :data-browser="one.name"
        >
          <Check :size="14" :class="selected ? '' : 'invisible'" />
          <span class="flex-1" :title="one.lacks.join('\n')"
            >{{ one.title
            }}<span v-if="one.lacks.length" class="text-xs text-soft"> · not all of it</span></span
          >
          <span
            v-if="!one.stations"
            class="text-xs text-odd"
            :title="one.package ? `Install ${one.package} on a station` : 'Its address takes no session now'"
            >no station has it</span
          >
          <span v-else class="text-xs text-soft">{{ one.versions.join(', ') }}</span>
        </li>
      </ListboxOption>
      <li class="border-t border-line px-2 pt-1 text-xs text-soft">
        Several at once: each row is played in each of them.
      </li>
    </ListboxOptions>
  </Listbox>
</template>
