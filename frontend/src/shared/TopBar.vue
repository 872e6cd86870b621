<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { Moon, Search, Sun } from '@lucide/vue'
import { ref } from 'vue'
import { useRoute } from 'vue-router'

import { api, ask, session } from '@/api/client'

import AccessTokens from './AccessTokens.vue'
import ChangePassword from './ChangePassword.vue'
import CommandBox from './CommandBox.vue'
import BellOf from './Bell.vue'

import MailAddress from './MailAddress.vue'
import { useAct } from './acting'
import { isNight, switchTheme } from './theme'

const PLACES = [
  { to: '/', name: 'Home' },
  { to: '/tests', name: 'Tests' },
  { to: '/flows', name: 'Flows' },
  { to: '/pages', name: 'Pages' },
  { to: '/data', name: 'Data' },
  { to: '/plans', name: 'Plans' },
  { to: '/runs', name: 'Runs' },
  { to: '/trends', name: 'Trends' },
  { to: '/defects', name: 'Defects' },
  { to: '/stations', name: 'Stations' },
  { to: '/settings', name: 'Settings' },
]
const route = useRoute()
const searching = ref(false)
const changing = ref(false)
const tokens = ref(false)
const mailing = ref(false)

const here = (to: string) =>
  to === '/'
    ? route.path === '/'
    : route.path.startsWith(to) || (to === '/plans' && route.path.startsWith('/plan-runs'))

const { act: signOut } = useAct(() => ask(api.POST('/api/sign-out')), { done: () => (session.me = null) })
</script>

<template>
  <header class="flex h-11 shrink-0 items-center gap-5 max-[1100px]:gap-3 border-b border-line bg-sheet px-4">
    <RouterLink to="/" class="flex shrink-0 items-center gap-2 font-story text-lg font-semibold">
      <img src="/lantern.svg" alt="" class="size-6" /> Lantern
    </RouterLink>
    <nav aria-label="Main" class="flex shrink-0 gap-1 text-sm max-[1100px]:gap-0">
      <RouterLink
        v-for="place in PLACES"
        :key="place.to"
        :to="place.to"
        class="rounded-md px-2 py-1 max-[1100px]:px-1.5"
        :class="here(place.to) ? 'bg-sunk font-semibold text-ink' : 'text-soft hover:text-ink'"
        :aria-current="here(place.to) ? 'page' : undefined"
      >
        {{ place.name }}
      </RouterLink>
    </nav>
    <button
      class="ml-auto flex w-56 max-w-56 min-w-28 items-center gap-2 rounded-md border border-line bg-paper px-2 py-1 text-left text-sm text-soft hover:border-strong-line"
      @click="searching = true"
    >
      <Search :size="14" aria-hidden="true" /> <span class="flex-1 whitespace-nowrap">Go to…</span>
      <kbd class="text-xs max-[1100px]:hidden">Ctrl J</kbd>
    </button>
    <button class="button-bare" :aria-label="isNight ? 'Day theme' : 'Night theme'" @click="switchTheme">
      <component :is="isNight ? Sun : Moon" :size="16" />
    </button>
    <BellOf v-if="session.me" />
    <Menu v-if="session.me" as="div" class="relative">
      <MenuButton class="button-bare font-medium whitespace-nowrap">{{ session.me.account.name }}</MenuButton>
      <MenuItems class="floating absolute right-0 mt-1 w-44 p-1">
        <div class="px-2 py-1 text-xs text-soft">
          {{ session.me.account.username }}, {{ session.me.account.role }}
        </div>
        <MenuItem v-slot="{ active }">
          <button
            class="w-full rounded px-2 py-1 text-left"
            :class="active && 'bg-sunk'"
            @click="changing = true"
          >
            Change password
          </button>
        </MenuItem>
        <MenuItem v-slot="{ active }">
          <button
            class="w-full rounded px-2 py-1 text-left"
            :class="active && 'bg-sunk'"
            @click="tokens = true"
          >
            Access tokens
          </button>
        </MenuItem>
        <MenuItem v-slot="{ active }">
          <button
            class="w-full rounded px-2 py-1 text-left"
            :class="active && 'bg-sunk'"
            @click="mailing = true"
          >
            Mail address
          </button>
        </MenuItem>
        <MenuItem v-slot="{ active }">
          <button class="w-full rounded px-2 py-1 text-left" :class="active && 'bg-sunk'" @click="signOut()">
            Sign out
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
    <CommandBox v-model:open="searching" />
    <ChangePassword v-model:open="changing" />
    <AccessTokens v-model:open="tokens" />
    <MailAddress v-model:open="mailing" />
  </header>
</template>
