<script setup lang="ts">
import { pictureUrl } from '@/api/client'
import { styleOf } from '@/shared/shares'

/** A picture of a page on which things are outlined, and one of them lit; boxes are shares of it. */
defineProps<{ digest: string; boxes: number[][]; lit: number[] | null; name?: string }>()
const emit = defineEmits<{ point: [x: number, y: number]; press: [x: number, y: number]; leave: [] }>()

function shares(event: MouseEvent): [number, number] {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height]
}
</script>

<template>
  <div
    class="relative overflow-hidden rounded-md border border-line"
    data-role="lit-picture"
    @mousemove="emit('point', ...shares($event))"
    @mouseleave="emit('leave')"
    @click="emit('press', ...shares($event))"
  >
    <img :src="pictureUrl(digest)" alt="The page" class="block w-full" draggable="false" />
    <div
      v-for="(box, number) in boxes"
      :key="number"
      class="mark absolute"
      :style="styleOf(box)"
      data-role="mark"
    />
    <div v-if="lit" class="light pointer-events-none absolute" :style="styleOf(lit)" data-role="lit">
      <span v-if="name" class="tag" :class="(lit[1] ?? 0) < 0.06 && 'below'">{{ name }}</span>
    </div>
  </div>
</template>

<style scoped>
.mark {
  outline: 2px solid var(--lit);
  outline-offset: 1px;
  background: rgb(240 169 43 / 0.16);
}
.light {
  outline: 2px solid var(--lit);
  outline-offset: 2px;
  box-shadow: 0 0 0 200rem rgb(25 18 8 / 0.4);
}
.tag {
  position: absolute;
  left: -2px;
  bottom: calc(100% + 4px);
  padding: 0 7px;
  border-radius: 4px;
  background: var(--lit);
  color: #2b2620;
  font-size: 12px;
  font-weight: 600;
  white-space: nowrap;
}
.tag.below {
  top: calc(100% + 4px);
  bottom: auto;
}
</style>
