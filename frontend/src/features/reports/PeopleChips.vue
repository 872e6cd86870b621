<script setup lang="ts">
import { X } from '@lucide/vue'
import { computed } from 'vue'

import type { Shapes } from '@/api/client'
import PickOne from '@/shared/PickOne.vue'
import { usePeople } from '@/shared/lists'

/** Some people, each of whom can be taken out, and adding one by letters of their name. */
const people = defineModel<{ id: number; name: string }[]>({ required: true })
const fresh = computed({
  get: () => null,
  set: (one: { id: number; name: string } | null) => {
    if (one && !people.value.some((it) => it.id === one.id))
      people.value = [...people.value, { id: one.id, name: one.name }]
  },
})
const address = (one: Shapes['Person']) => one.email || 'no mail address'
</script>

<template>
  <div class="flex flex-wrap items-center gap-2" data-role="chosen-people">
    <span v-for="one in people" :key="one.id" class="chip inline-flex items-center gap-1">
      {{ one.name }}
      <button
        type="button"
        class="button-bare p-0"
        :aria-label="`Not to ${one.name}`"
        @click="people = people.filter((it) => it.id !== one.id)"
      >
        <X :size="13" />
      </button>
    </span>
    <PickOne
      v-model="fresh"
      class="min-w-44"
      :list="usePeople"
      label="Add somebody"
      hint="add somebody"
      :more="address"
    />
  </div>
</template>
