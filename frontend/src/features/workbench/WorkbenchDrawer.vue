<script setup lang="ts">
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
import { ChevronDown, ChevronUp } from '@lucide/vue'
import { computed, nextTick, ref, watch } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import Splitter from '@/shared/Splitter.vue'

import { PANELS } from './panels'
import { theWorkbench } from './useWorkbench'

/** The drawer below stage and story: one panel at a time, as high as it was drawn. */
const props = defineProps<{ test: Test; catalogue: Catalogue }>()
const bench = theWorkbench()
const { tab, layout, show } = bench.drawer
const { folded } = layout
const { size, least, most, usual } = layout.drawer

const panels = computed(() => PANELS.filter((one) => one.there?.(bench, props.test) ?? true))
const place = ref(0)
/** A tab that comes with what it is about can be chosen once it is there. */
watch(
  [tab, panels],
  async () => {
    await nextTick()
    place.value = panels.value.findIndex((one) => one.tab === tab.value)
  },
  { immediate: true },
)
const given = (panel: (typeof PANELS)[number]) => panel.given(bench, props.test, props.catalogue)

/** The grid of rows can be told to go to a cell. */
const keepGrid = (name: string, component: unknown) => {
  if (name === 'rows') bench.grid.value = component as typeof bench.grid.value
}
</script>

<template>
  <Splitter
    v-if="!folded"
    across
    label="Height of the drawer"
    :size="size"
    :least="least"
    :most="most"
    @size="size = $event"
    @usual="usual"
  />
  <TabGroup
    as="section"
    manual
    class="flex shrink-0 flex-col border-line bg-sheet"
    :class="folded && 'border-t'"
    :style="folded ? {} : { height: `${size}px` }"
    aria-label="Drawer"
    :selected-index="place"
    @change="panels[$event] && (tab = panels[$event].tab)"
  >
    <div class="flex items-center border-b border-line px-2 py-0.5 text-sm">
      <TabList class="-m-0.5 flex min-w-0 flex-1 items-center gap-1 overflow-x-auto p-1">
        <Tab
          v-for="one in panels"
          :key="one.tab"
          class="shrink-0 rounded px-2 py-1"
          :class="tab === one.tab ? 'font-semibold' : 'text-soft hover:text-ink'"
          @click="show(one.tab)"
          >{{ one.title(test) }}</Tab
        >
      </TabList>
      <button
        class="button-bare"
        :aria-label="folded ? 'Open the drawer' : 'Fold the drawer'"
        @click="folded = !folded"
      >
        <component :is="folded ? ChevronUp : ChevronDown" :size="16" />
      </button>
    </div>
    <TabPanels v-show="!folded" class="min-h-0 flex-1">
      <TabPanel v-for="one in panels" :key="one.tab" class="h-full outline-none" :tabindex="-1">
        <component :is="one.component" :ref="keepGrid.bind(null, one.tab)" v-bind="given(one)" />
      </TabPanel>
    </TabPanels>
  </TabGroup>
</template>
