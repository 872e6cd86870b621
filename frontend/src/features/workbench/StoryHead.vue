<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { ChevronDown, Redo2, Undo2 } from '@lucide/vue'
import { computed } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import IconButton from '@/shared/IconButton.vue'

import AddSentence from './AddSentence.vue'
import type { useStory } from './useStory'
import type { useStoryTools } from './useStoryTools'

/** What can be done with the story: what fits the chosen sentences in words, all of it in a menu. */
const props = defineProps<{
  test: Test
  catalogue: Catalogue
  edits: Edits
  story: ReturnType<typeof useStory>
  tools: ReturnType<typeof useStoryTools>
}>()

const blocks = computed(() => props.catalogue.actions.filter((one) => one.block && one.block !== 'flow'))
const none = computed(() => props.tools.many.value === 'none')
const undo = computed(() => props.edits.toUndo.value)
const redo = computed(() => props.edits.toRedo.value)
</script>

<template>
  <div class="flex items-center gap-0.5 border-b border-line bg-sheet px-1.5 py-1" data-role="story-head">
    <IconButton
      :icon="Undo2"
      label="Undo"
      :title="undo ? `Undo (Ctrl Z): ${undo}` : 'Undo (Ctrl Z)'"
      :disabled="!undo"
      @click="edits.undo"
    />
    <IconButton
      :icon="Redo2"
      label="Redo"
      :title="redo ? `Redo (Ctrl Y): ${redo}` : 'Redo (Ctrl Y)'"
      :disabled="!redo"
      @click="edits.redo"
    />
    <div class="flex h-7 min-w-0 flex-1 flex-wrap items-center gap-x-1 overflow-hidden">
      <button
        v-for="one in tools.head.value"
        :key="one.label"
        class="button-bare h-7 max-w-full px-1"
        :title="one.title"
        :disabled="!one.on"
        @click="one.act"
      >
        <span class="truncate">{{ one.short ?? one.label }}</span>
      </button>
    </div>
    <AddSentence
      :catalogue="catalogue"
      :elements="test.elements.length"
      :self="test.kind === 'flow' ? String(test.id) : ''"
      @add="story.add"
      @call="story.call"
    />
    <Menu as="div" class="relative shrink-0">
      <MenuButton class="button-bare px-1.5" title="All that can be done with sentences" data-role="all-acts"
        >More <ChevronDown :size="14" aria-hidden="true"
      /></MenuButton>
      <MenuItems
        class="floating absolute right-0 grid max-h-[70vh] w-[27rem] max-w-[90vw] grid-cols-[1fr_11rem] overflow-auto p-1 text-sm"
      >
        <div class="border-r border-line pr-1">
          <div
            v-for="(group, place) in tools.groups.value"
            :key="place"
            :class="place > 0 && 'mt-1 border-t border-line pt-1'"
          >
            <MenuItem v-for="one in group" :key="one.label" v-slot="{ active, disabled }" :disabled="!one.on">
              <button
                class="flex w-full items-baseline gap-3 rounded px-2 py-1 text-left"
                :class="[active && 'bg-sunk', disabled && 'text-soft']"
                :title="one.title"
                :aria-label="one.label"
                @click="one.act"
              >
                {{ one.label }}
                <span
                  v-if="one.keys"
                  class="ml-auto text-xs text-soft after:content-[attr(data-keys)]"
                  :data-keys="one.keys"
                />
              </button>
            </MenuItem>
          </div>
        </div>
        <div class="pl-1">
          <p class="px-2 py-1 text-xs font-semibold text-soft">
            {{ none ? 'Add a block' : 'Put into a block' }}
          </p>
          <MenuItem
            v-for="one in blocks"
            :key="one.name"
            v-slot="{ active, disabled }"
            :disabled="one.kinds !== null && test.elements.length === 0"
          >
            <button
              class="w-full rounded px-2 py-1 text-left"
              :class="[active && 'bg-sunk', disabled && 'text-soft']"
              :title="one.help"
              @click="story.wrap(one.name)"
            >
              {{ one.title }}
            </button>
          </MenuItem>
        </div>
      </MenuItems>
    </Menu>
  </div>
</template>
