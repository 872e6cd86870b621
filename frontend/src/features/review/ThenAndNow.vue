<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import Picture from '@/shared/Picture.vue'

import { besides } from './beside'

/** The page at a sentence, and beside it what it looked like when it passed or was recorded. */
const props = defineProps<{
  result: number
  picture: string
  box: number[] | null
  sentence: string
}>()
const query = useQuery({
  queryKey: computed(() => ['then', props.result]),
  queryFn: () => ask(api.GET('/api/results/{id}/then', { params: { path: { id: props.result } } })),
  enabled: besides,
})
const found = computed(() => query.data.value?.pictures ?? [])
const chosen = ref(0)
watch(
  () => props.result,
  () => (chosen.value = Math.min(chosen.value, 1)),
)
const then = computed(() => found.value[Math.min(chosen.value, found.value.length - 1)])
const called = (run: number) => (run ? `run ${run}, when it passed` : 'when it was recorded')
const boxOf = computed(() => {
  const at = then.value?.box
  return at ? [at.x, at.y, at.width, at.height] : null
})
</script>

<template>
  <section aria-label="Pictures">
    <p class="mb-1 flex items-center gap-3 text-sm">
      <label class="flex items-center gap-1.5"
        ><input v-model="besides" type="checkbox" data-role="besides" /> then and now</label
      >
      <select
        v-if="besides && found.length > 1"
        v-model="chosen"
        class="field w-auto py-0 text-xs"
        aria-label="Which picture from before"
      >
        <option v-for="(one, place) in found" :key="one.run" :value="place">{{ called(one.run) }}</option>
      </select>
      <span v-if="besides" class="ml-auto text-xs text-soft">↑ and ↓ walk through the sentences</span>
    </p>
    <div v-if="besides" class="grid grid-cols-2 gap-2">
      <figure class="min-w-0" data-role="then">
        <figcaption class="mb-1 text-xs text-soft">
          Then{{ then && found.length === 1 ? `: ${called(then.run)}` : '' }}
        </figcaption>
        <Picture
          v-if="then"
          :key="then.picture"
          :digest="then.picture"
          :box="boxOf"
          pixels
          :alt="`The page before, at: ${sentence}`"
        />
        <p v-else-if="query.isLoading.value" class="text-sm text-soft">Looking for it…</p>
        <p v-else class="text-sm text-soft">
          There is no picture from before: it never passed with pictures, and was not recorded.
        </p>
      </figure>
      <figure class="min-w-0" data-role="now">
        <figcaption class="mb-1 text-xs text-soft">Now</figcaption>
        <Picture :key="picture" :digest="picture" :box="box" pixels :alt="`The page at: ${sentence}`" />
      </figure>
    </div>
    <Picture
      v-else
      :key="`only ${picture}`"
      :digest="picture"
      :box="box"
      pixels
      :alt="`The page at: ${sentence}`"
    />
  </section>
</template>
