<script setup lang="ts">
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
import { computed } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import type { Box } from '@/features/live/useLive'

import BreakpointsPart from './BreakpointsPart.vue'
import ChangesPart from './ChangesPart.vue'
import SpotPart from './SpotPart.vue'
import TracePart from './TracePart.vue'
import ValuesPart from './ValuesPart.vue'
import WhichPart from './WhichPart.vue'
import WhyPart from './WhyPart.vue'
import { PARTS } from './parts'
import type { Part } from './parts'
import type { Breakpoints } from './useBreakpoints'
import type { Rehearsing } from './useRehearsal'

/** All that is looked at and done while a rehearsal is held. */
const props = defineProps<{
  rehearsing: Rehearsing
  breakpoints: Breakpoints
  test: Test
  catalogue: Catalogue
  edits: Edits
  part: Part
  pointed: Record<string, unknown> | null
  recording: boolean
}>()
const emit = defineEmits<{
  part: [part: Part]
  lit: [boxes: Box[]]
  edit: [element: string]
  point: []
  record: [on: boolean]
  choose: [step: string]
  defect: []
}>()
const place = computed(() => PARTS.findIndex((one) => one.part === props.part))
</script>

<template>
  <TabGroup
    as="div"
    manual
    class="flex h-full min-h-0 flex-col"
    :selected-index="place"
    @change="emit('part', PARTS[$event]!.part)"
  >
    <TabList class="flex shrink-0 gap-1 border-b border-line bg-paper px-2 text-sm">
      <Tab
        v-for="one in PARTS"
        :key="one.part"
        class="rounded-t px-2 py-0.5"
        :class="one.part === part ? 'border-b-2 border-lit font-semibold' : 'text-soft hover:text-ink'"
        >{{ one.title }}</Tab
      >
    </TabList>
    <TabPanels class="min-h-0 flex-1">
      <TabPanel class="h-full"
        ><ValuesPart :rehearsing="rehearsing" :test="test" :catalogue="catalogue" :edits="edits"
      /></TabPanel>
      <TabPanel class="h-full"
        ><WhyPart :rehearsing="rehearsing" @lit="emit('lit', $event)" @defect="emit('defect')"
      /></TabPanel>
      <TabPanel class="h-full"
        ><WhichPart :rehearsing="rehearsing" @lit="emit('lit', $event)" @edit="emit('edit', $event)"
      /></TabPanel>
      <TabPanel class="h-full" :unmount="false"
        ><SpotPart
          :rehearsing="rehearsing"
          :test="test"
          :catalogue="catalogue"
          :edits="edits"
          :pointed="pointed"
          :recording="recording"
          @point="emit('point')"
          @record="emit('record', $event)"
      /></TabPanel>
      <TabPanel class="h-full"><TracePart :rehearsing="rehearsing" /></TabPanel>
      <TabPanel class="h-full"
        ><BreakpointsPart
          :breakpoints="breakpoints"
          :test="test"
          :catalogue="catalogue"
          @choose="emit('choose', $event)"
      /></TabPanel>
      <TabPanel class="h-full"><ChangesPart :rehearsing="rehearsing" :test="test" /></TabPanel>
    </TabPanels>
  </TabGroup>
</template>
