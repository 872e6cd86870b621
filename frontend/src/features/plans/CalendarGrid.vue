<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import type { Shapes } from '@/api/client'

import CalendarEntry from './CalendarEntry.vue'
import { sameDay } from './days'
import { carried } from './useDropped'

/** Days of the calendar hour by hour, what overlaps side by side. */
type Entry = Shapes['CalendarEntry']
const props = defineProps<{ days: Date[]; entries: Entry[]; fixed: boolean }>()
const emit = defineEmits<{ open: [entry: Entry]; day: [day: Date]; drop: [entry: Entry, to: Date] }>()
const HOUR = 44 // pixels
const LEAST = 20
const STEP = 15 // minutes to which what is dropped falls
const today = new Date()
const frame = ref<HTMLElement>()
onMounted(() => frame.value?.scrollTo(0, Math.max(0, today.getHours() - 2) * HOUR))

const minutes = (date: Date) => date.getHours() * 60 + date.getMinutes()
interface Placed {
  entry: Entry
  top: number
  height: number
  lane: number
  lanes: number
}
/** The entries of a day, each in a lane of its own where they overlap. */
function placed(day: Date): Placed[] {
  const found: Placed[] = []
  const ends: number[] = []
  for (const entry of props.entries.filter((one) => sameDay(new Date(one.begin), day))) {
    const top = (minutes(new Date(entry.begin)) / 60) * HOUR
    const lasts = (Date.parse(entry.end) - Date.parse(entry.begin)) / 3_600_000
    const height = Math.max(LEAST, Math.min(lasts * HOUR, 24 * HOUR - top))
    let lane = ends.findIndex((end) => end <= top)
    if (lane < 0) lane = ends.length
    ends[lane] = top + height
    found.push({ entry, top, height, lane, lanes: 1 })
  }
  for (const one of found)
    one.lanes =
      1 +
      Math.max(
        ...found
          .filter((other) => other.top < one.top + one.height && one.top < other.top + other.height)
          .map((other) => other.lane),
      )
  return found
}
const columns = computed(() => props.days.map((day) => ({ day, placed: placed(day) })))
function drop(event: DragEvent, day: Date) {
  const entry = carried(event, props.entries)
  if (!entry) return
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const at = Math.round(((event.clientY - box.top) / HOUR) * (60 / STEP)) * STEP
  const to = new Date(day)
  to.setHours(0, Math.max(0, Math.min(at, 24 * 60 - STEP)), 0, 0)
  emit('drop', entry, to)
}
const head = (day: Date) => day.toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric' })
</script>

<template>
  <div class="panel flex min-h-0 flex-1 flex-col" data-role="grid">
    <div class="flex border-b border-line pl-12 text-xs text-soft">
      <button
        v-for="day in days"
        :key="day.getTime()"
        class="flex-1 px-2 py-1 text-left hover:underline"
        :class="sameDay(day, today) && 'font-semibold text-ink'"
        @click="$emit('day', day)"
      >
        {{ head(day) }}
      </button>
    </div>
    <div ref="frame" class="relative flex min-h-0 flex-1 overflow-auto">
      <div class="w-12 shrink-0 text-right text-xs text-soft">
        <p v-for="hour in 24" :key="hour" class="pr-1.5" :style="{ height: `${HOUR}px` }">
          {{ String(hour - 1).padStart(2, '0') }}:00
        </p>
      </div>
      <div
        v-for="column in columns"
        :key="column.day.getTime()"
        class="relative min-w-0 flex-1 border-l border-line"
        :style="{ height: `${24 * HOUR}px` }"
        :data-day="column.day.toDateString()"
        @dragover.prevent
        @drop.prevent="drop($event, column.day)"
      >
        <span
          v-for="hour in 23"
          :key="hour"
          class="absolute inset-x-0 border-t border-line"
          :style="{ top: `${hour * HOUR}px` }"
        />
        <div
          v-for="one in column.placed"
          :key="`${one.entry.kind} ${one.entry.run ?? one.entry.schedule} ${one.entry.begin}`"
          class="absolute px-0.5"
          :style="{
            top: `${one.top}px`,
            left: `${(100 * one.lane) / one.lanes}%`,
            width: `${100 / one.lanes}%`,
          }"
        >
          <CalendarEntry
            :style="{ height: `${one.height}px` }"
            class="items-start"
            :entry="one.entry"
            :fixed="fixed"
            @open="$emit('open', one.entry)"
          />
        </div>
      </div>
    </div>
  </div>
</template>
