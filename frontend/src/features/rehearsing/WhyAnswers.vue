<script setup lang="ts">
import type { Shapes } from '@/api/client'

type Box = Record<string, number>
interface Answer {
  cause: string
  told: string
  share: number
  boxes: Box[]
  act: string
  label: string
  given: Record<string, unknown>
}

/** Why a thing was not found, the likeliest reason first, each with what can be done about it. */
defineProps<{ answers: Answer[]; disabled?: boolean }>()
defineEmits<{ lit: [boxes: Box[]]; act: [act: Shapes['MendAsk']['act'], given: Record<string, unknown>] }>()
const share = (of: number) => `${Math.round(of * 100)} %`
</script>

<template>
  <ol class="flex flex-col">
    <li
      v-for="(one, n) in answers"
      :key="n"
      class="flex items-center gap-3 border-b border-line py-1"
      :data-cause="one.cause"
      tabindex="0"
      @mouseenter="$emit('lit', one.boxes)"
      @mouseleave="$emit('lit', [])"
      @focus="$emit('lit', one.boxes)"
    >
      <span class="w-12 shrink-0 text-right text-xs text-soft" :title="`${share(one.share)} likely`">
        {{ share(one.share) }}
        <span class="block h-1 rounded-full bg-sunk"
          ><span class="block h-1 rounded-full bg-act" :style="{ width: share(one.share) }"
        /></span>
      </span>
      <span class="min-w-0 flex-1 wrap-anywhere" :class="n === 0 && 'font-semibold'">{{ one.told }}</span>
      <button
        v-if="one.act"
        class="button shrink-0 px-2 py-0.5"
        :disabled="disabled"
        :data-act="one.act"
        @click="$emit('act', one.act as Shapes['MendAsk']['act'], one.given)"
      >
        {{ one.label }}
      </button>
    </li>
  </ol>
</template>
