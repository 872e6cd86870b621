<script setup lang="ts">
import { CircleCheck, CircleDashed, CircleHelp, Layers2, TriangleAlert } from '@lucide/vue'
import { computed } from 'vue'

/** What an element finds, as a shape and a word. */
const props = defineProps<{ word: string; count: number; why?: string }>()

const SHAPES: Record<string, { icon: unknown; style: string }> = {
  'finds it': { icon: CircleCheck, style: 'text-good' },
  'finds several': { icon: Layers2, style: 'text-odd' },
  'finds another one': { icon: TriangleAlert, style: 'text-bad' },
  'is there, but not shown': { icon: CircleDashed, style: 'text-odd' },
  'was not there yet': { icon: CircleDashed, style: 'text-soft' },
  'finds nothing': { icon: CircleDashed, style: 'text-bad' },
}
const shape = computed(() => SHAPES[props.word] ?? { icon: CircleHelp, style: 'text-bad' })
const words = computed(() => (props.word === 'finds several' ? `finds ${props.count}` : props.word))
</script>

<template>
  <span
    class="inline-flex items-center gap-1 font-medium whitespace-nowrap"
    :class="shape.style"
    :title="why"
  >
    <component :is="shape.icon" :size="14" aria-hidden="true" /> {{ words }}
  </span>
</template>
