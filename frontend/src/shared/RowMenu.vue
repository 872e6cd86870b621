<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'

import { beside } from './beside'

/** What can be done with a row of a list, behind a button of its own. */
defineProps<{ label: string; entries: { words: string; act: () => unknown; bad?: boolean }[] }>()
</script>

<template>
  <Menu as="div" class="inline-block text-left">
    <MenuButton class="button-bare" :aria-label="label"><slot /></MenuButton>
    <MenuItems
      class="floating fixed z-10 min-w-40 p-1 whitespace-nowrap"
      @vue:mounted="beside"
      @vue:updated="beside"
    >
      <MenuItem v-for="entry in entries" :key="entry.words" v-slot="{ active }">
        <button
          class="block w-full rounded px-2 py-1 text-left"
          :class="[active && 'bg-sunk', entry.bad && 'text-bad']"
          @click="entry.act()"
        >
          {{ entry.words }}
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
