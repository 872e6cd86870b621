<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'

/** The flow of control of a test; a box leads to its sentences. */
const props = defineProps<{ test: Test; chosen: string[] }>()
const emit = defineEmits<{ choose: [steps: string[]] }>()

/** Pixels of one unit of the drawing. */
const X = 62
const Y = 44
const EDGE = 16

const query = useQuery({
  queryKey: computed(() => ['test', props.test.id, 'shape', props.test.version]),
  queryFn: () => ask(api.GET('/api/tests/{id}/shape', { params: { path: { id: props.test.id } } })),
  placeholderData: (before) => before,
})
const shape = computed(() => query.data.value)
const line = (points: [number, number][]) =>
  points.map(([x, y], n) => `${n ? 'L' : 'M'} ${x * X + EDGE} ${y * Y + EDGE}`).join(' ')
/** Where the word of an arrow stands: by its beginning. */
const beside = ({ points, word }: { points: number[][]; word: string }) => {
  const [x = 0, y = 0] = points[0] ?? []
  return { x: x * X + EDGE + 6, y: y * Y + EDGE + (word === 'yes' ? 14 : -5) }
}
const lit = (box: Shapes['ShapeOut']) => box.steps.some((step) => props.chosen.includes(step))
const NAMES: Record<string, string> = {
  choice: 'if',
  repeat: 'repeat',
  part: 'section',
  flow: 'flow',
  try: 'may fail',
  always: 'always',
}
/** Corners tell what a box is: a choice is cut, a repeat is round, a flow has a double edge. */
const EDGES: Record<string, string> = {
  choice: 'rounded-none border-dashed',
  repeat: 'rounded-full px-5',
  flow: 'rounded-md border-4 border-double',
  part: 'rounded-t-2xl rounded-b-none',
  try: 'rounded-md border-dotted',
  always: 'rounded-b-2xl rounded-t-none',
}
</script>

<template>
  <div class="h-full overflow-auto bg-paper" data-role="shape">
    <svg
      v-if="shape"
      :width="shape.width * X + 2 * EDGE"
      :height="shape.height * Y + 2 * EDGE"
      role="group"
      aria-label="The shape of the test"
    >
      <defs>
        <marker id="tip" markerWidth="8" markerHeight="8" refX="6" refY="4" orient="auto">
          <path d="M 0 1 L 7 4 L 0 7" fill="none" stroke="var(--strong-line)" />
        </marker>
      </defs>
      <g v-for="(arrow, n) in shape.arrows" :key="n">
        <path
          :d="line(arrow.points as [number, number][])"
          fill="none"
          stroke="var(--strong-line)"
          marker-end="url(#tip)"
        />
        <text v-if="arrow.word" v-bind="beside(arrow)" class="fill-soft text-xs">
          {{ arrow.word }}
        </text>
      </g>
      <foreignObject
        v-for="(box, n) in shape.shapes"
        :key="`box ${n}`"
        :x="(box.x - box.width / 2) * X + EDGE"
        :y="box.y * Y + EDGE"
        :width="box.width * X"
        :height="box.height * Y"
      >
        <p v-if="box.look === 'end'" class="text-center text-xs text-soft">{{ box.words }}</p>
        <button
          v-else
          class="flex size-full items-center gap-1.5 border bg-sheet px-2 text-left text-xs"
          :class="[
            EDGES[box.look] ?? 'rounded-md',
            lit(box) ? 'border-lit bg-lit-paper text-lit-ink' : 'border-strong-line hover:border-ink',
          ]"
          :title="box.words"
          data-role="box"
          @click="emit('choose', box.steps)"
        >
          <span v-if="NAMES[box.look]" class="shrink-0 text-soft">{{ NAMES[box.look] }}</span>
          <span class="line-clamp-2 font-story wrap-anywhere">{{ box.words }}</span>
        </button>
      </foreignObject>
    </svg>
  </div>
</template>
