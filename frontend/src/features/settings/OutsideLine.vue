<script setup lang="ts">
/** A line of another program that Lantern speaks to: switched on or off, its log, changed, deleted. */
defineProps<{
  name: string
  enabled: boolean
  words: string
  failing: boolean
  logged: boolean
}>()
defineEmits<{ toggle: []; log: []; change: []; drop: [] }>()
</script>

<template>
  <div class="flex flex-wrap items-baseline gap-2">
    <input type="checkbox" :checked="enabled" :aria-label="`Switch on ${name}`" @change="$emit('toggle')" />
    <b>{{ name }}</b>
    <span class="min-w-0 flex-1 truncate text-soft" :title="words">{{ words }}</span>
    <slot />
    <span v-if="failing" class="text-odd">the last message was not taken</span>
    <slot name="acts" />
    <button class="button py-0" :aria-expanded="logged" @click="$emit('log')">Log</button>
    <button class="button py-0" @click="$emit('change')">Change</button>
    <button class="button py-0" :aria-label="`Delete ${name}`" @click="$emit('drop')">Delete</button>
  </div>
</template>
