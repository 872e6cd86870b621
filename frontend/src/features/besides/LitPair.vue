<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask, mayChange, pictureUrl } from '@/api/client'
import Dark from '@/shared/Dark.vue'
import { useAct } from '@/shared/acting'
import { styleOf } from '@/shared/shares'

/** Two pictures of a page, lit where they differ; parts that may differ are drawn over them. */
const props = defineProps<{ one: number; other: number }>()
const key = computed(() => ['beside pictures', props.one, props.other])
const query = useQuery({
  queryKey: key,
  queryFn: () =>
    ask(
      api.GET('/api/results/{id}/beside/{other}', {
        params: { path: { id: props.one, other: props.other } },
      }),
    ),
  retry: false,
})
const told = computed(() => query.data.value)
const lights = ref(true)
const masking = ref(false)
const drawn = ref<number[] | null>(null)
let from: [number, number] | null = null

const { act: mask } = useAct(
  (box: number[]) =>
    ask(api.POST('/api/results/{id}/masks', { params: { path: { id: props.other } }, body: { box } })),
  { stale: () => [['beside pictures']], done: () => (masking.value = false) },
)
const { act: unmask } = useAct(
  (id: number) => ask(api.DELETE('/api/masks/{id}', { params: { path: { id } } })),
  { stale: () => [['beside pictures']] },
)

function at(event: PointerEvent): [number, number] {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const share = (value: number) => Math.min(1, Math.max(0, value))
  return [share((event.clientX - box.left) / box.width), share((event.clientY - box.top) / box.height)]
}
function begin(event: PointerEvent) {
  if (!masking.value) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  from = at(event)
}
function draw(event: PointerEvent) {
  if (!from) return
  const to = at(event)
  const [x, y] = [Math.min(from[0], to[0]), Math.min(from[1], to[1])]
  drawn.value = [x, y, Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])]
}
function end() {
  const box = drawn.value
  from = drawn.value = null
  if (box && box[2]! > 0.004 && box[3]! > 0.004) void mask(box)
}
const sides = computed(() => (told.value ? [told.value.one, told.value.other] : []))
</script>

<template>
  <div v-if="told" data-role="lit-pair">
    <p class="mb-1 flex flex-wrap items-center gap-3">
      <label class="flex items-center gap-1.5"
        ><input v-model="lights" type="checkbox" /> light where they differ</label
      >
      <span class="text-soft" data-role="share">{{
        told.places.length
          ? `${told.places.length} ${told.places.length === 1 ? 'place' : 'places'}, ${(told.share * 100).toFixed(1)} % of the picture`
          : 'The pictures show the same.'
      }}</span>
      <span v-if="told.learned" class="text-xs text-soft"
        >What differs between plays that passed does not count.</span
      >
      <button
        v-if="mayChange()"
        class="button ml-auto py-0.5"
        :aria-pressed="masking"
        title="Draw a part of the picture that may differ"
        @click="masking = !masking"
      >
        {{ masking ? 'Draw it on a picture' : 'Set a part aside' }}
      </button>
    </p>
    <div class="grid grid-cols-2 gap-2">
      <div
        v-for="(digest, number) in sides"
        :key="number"
        class="relative overflow-hidden rounded-md border border-line"
        :class="masking && 'cursor-crosshair touch-none'"
        :data-side="number"
        @pointerdown="begin"
        @pointermove="draw"
        @pointerup="end"
      >
        <img
          :src="pictureUrl(digest)"
          :alt="number ? 'The page there' : 'The page here'"
          class="block w-full"
          draggable="false"
        />
        <Dark v-if="lights && told.places.length" :but="told.places" />
        <template v-if="lights">
          <span
            v-for="(box, place) in told.places"
            :key="place"
            class="pointer-events-none absolute rounded-sm outline-2 outline-offset-1 outline-lit"
            :style="styleOf(box)"
            data-role="lit"
          />
        </template>
        <span
          v-for="part in told.masks"
          :key="part.id"
          class="aside absolute"
          :style="styleOf(part.box)"
          data-role="mask"
        >
          <button
            v-if="mayChange()"
            class="button absolute top-0 right-0 px-1 py-0 text-xs"
            aria-label="Let this part count again"
            @click.stop="unmask(part.id)"
            @pointerdown.stop
          >
            ×
          </button>
        </span>
        <span v-if="drawn" class="aside pointer-events-none absolute" :style="styleOf(drawn)" />
      </div>
    </div>
  </div>
  <p v-else-if="query.error.value" class="text-soft">{{ query.error.value.message }}</p>
</template>

<style scoped>
.aside {
  background: repeating-linear-gradient(45deg, rgb(255 255 255 / 0.65) 0 6px, rgb(120 110 95 / 0.5) 6px 10px);
  outline: 1px solid var(--strong-line);
}
</style>
