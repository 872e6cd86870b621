<script setup lang="ts">
import { computed } from 'vue'

import { pictureUrl } from '@/api/client'
import Dark from '@/shared/Dark.vue'
import { styleOf } from '@/shared/shares'

import type { Spot } from './words'

/** A page in the dark: what the checks would notice is lit, what they would not has a broken edge. */
const props = defineProps<{ digest: string; spots: Spot[]; chosen: Spot | null }>()
const emit = defineEmits<{ choose: [spot: Spot] }>()

interface Place {
  key: string
  box: number[]
  seen: number
  whole: number
  spots: Spot[]
}
/** Things of the page, each with how much of what may change about it would be noticed. */
const places = computed(() => {
  const found = new Map<string, Place>()
  for (const spot of props.spots) {
    const [, , width = 0, height = 0] = spot.box
    if (width <= 0 || height <= 0) continue
    const key = spot.box.map((side) => side.toFixed(4)).join()
    const place = found.get(key) ?? { key, box: spot.box, seen: 0, whole: 0, spots: [] }
    place.whole += spot.weight
    if (spot.by) place.seen += spot.weight
    place.spots.push(spot)
    found.set(key, place)
  }
  // Large things first: what lies in them is drawn over them and can be pressed.
  return [...found.values()].sort((a, b) => b.box[2]! * b.box[3]! - a.box[2]! * a.box[3]!)
})
const seen = computed(() => places.value.filter((one) => one.seen > 0))
const at = (place: Place) => !!props.chosen && place.spots.includes(props.chosen)
const titleOf = (place: Place) =>
  place.seen === 0
    ? 'No check would notice'
    : place.seen < place.whole
      ? 'Noticed in part'
      : 'Would be noticed'
const choose = (place: Place) => emit('choose', place.spots.find((one) => !one.by) ?? place.spots[0]!)
</script>

<template>
  <div class="relative overflow-hidden rounded-md border border-line" data-role="shine">
    <img
      :src="pictureUrl(digest)"
      alt="The page, lit where the checks look"
      class="block w-full"
      draggable="false"
    />
    <Dark :but="seen.map((place) => place.box)" />
    <button
      v-for="place in places"
      :key="place.key"
      class="place absolute"
      :class="[place.seen >= place.whole ? 'seen' : place.seen ? 'part' : 'blind', at(place) && 'chosen']"
      :style="styleOf(place.box)"
      :title="titleOf(place)"
      :aria-label="`${titleOf(place)}: ${place.spots[0]!.name}`"
      tabindex="-1"
      @click="choose(place)"
    />
  </div>
</template>

<style scoped>
.place {
  border-radius: 3px;
  background: none;
}
.seen,
.part {
  outline: 2px solid var(--lit);
}
.part {
  outline-style: double;
  outline-width: 4px;
}
.blind {
  outline: 1px dashed rgb(255 255 255 / 0.55);
}
.chosen {
  outline: 3px solid #fff;
  box-shadow: 0 0 0 6px rgb(240 169 43 / 0.75);
}
</style>
