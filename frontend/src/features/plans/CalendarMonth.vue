<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'

import CalendarEntry from './CalendarEntry.vue'
import { onDay, sameDay } from './days'
import { carried } from './useDropped'

/** A month of the calendar: its weeks, each day with what is in it. */
type Entry = Shapes['CalendarEntry']
const props = defineProps<{ days: Date[]; month: number; entries: Entry[]; fixed: boolean }>()
const emit = defineEmits<{ open: [entry: Entry]; day: [day: Date]; drop: [entry: Entry, to: Date] }>()
const MOST = 4
const NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const today = new Date()
const cells = computed(() =>
  props.days.map((day) => ({
    day,
    entries: props.entries.filter((one) => sameDay(new Date(one.begin), day)),
  })),
)
function drop(event: DragEvent, day: Date) {
  const entry = carried(event, props.entries)
  if (entry) emit('drop', entry, onDay(new Date(entry.begin), day))
}
</script>

<template>
  <div class="panel grid min-h-0 flex-1 grid-cols-7 overflow-auto" data-role="month">
    <p v-for="name in NAMES" :key="name" class="border-b border-line px-2 py-1 text-xs text-soft">
      {{ name }}
    </p>
    <div
      v-for="cell in cells"
      :key="cell.day.getTime()"
      class="flex min-h-24 min-w-0 flex-col gap-0.5 border-r border-b border-line p-1"
      :class="cell.day.getMonth() !== month && 'bg-paper text-soft'"
      :data-day="cell.day.toDateString()"
      @dragover.prevent
      @drop.prevent="drop($event, cell.day)"
    >
      <button
        class="w-fit rounded px-1 text-left text-xs hover:underline"
        :class="sameDay(cell.day, today) && 'bg-lit font-semibold text-[#2b2620]'"
        @click="$emit('day', cell.day)"
      >
        {{ cell.day.getDate() }}
      </button>
      <CalendarEntry
        v-for="entry in cell.entries.slice(0, MOST)"
        :key="`${entry.kind} ${entry.run ?? entry.schedule} ${entry.begin}`"
        :entry="entry"
        :fixed="fixed"
        @open="$emit('open', entry)"
      />
      <button
        v-if="cell.entries.length > MOST"
        class="text-left text-xs text-soft hover:underline"
        @click="$emit('day', cell.day)"
      >
        {{ cell.entries.length - MOST }} more
      </button>
    </div>
  </div>
</template>
