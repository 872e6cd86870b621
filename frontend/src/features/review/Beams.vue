<script setup lang="ts">
import { computed } from 'vue'

import { KINDS, percent } from './kinds'

/** The shares of a verdict as beams of light: as wide as they are likely, and told in words. */
const props = defineProps<{ shares: Record<string, number> }>()
const beams = computed(() =>
  KINDS.map((one) => ({ ...one, share: props.shares[one.kind] ?? 0 }))
    .filter(({ share }) => share >= 0.005)
    .sort((one, other) => other.share - one.share),
)
/** Beside the kind that is said, the next one is what matters. */
const next = computed(() =>
  beams.value.slice(1, 2).map(({ kind, share }) => `then ${kind} ${percent(share)}`),
)
const told = computed(() => beams.value.map(({ kind, share }) => `${kind} ${percent(share)}`).join(', '))
</script>

<template>
  <div class="text-xs" data-role="shares">
    <div class="flex h-1.5 gap-px overflow-hidden rounded-full bg-sunk" role="img" :aria-label="told">
      <span
        v-for="one in beams"
        :key="one.kind"
        :class="one.beam"
        :style="{ width: `${one.share * 100}%` }"
        :title="`${one.kind} ${percent(one.share)}: ${one.means}`"
      />
    </div>
    <p class="mt-0.5 text-soft" aria-hidden="true" :title="told">{{ next[0] }}</p>
  </div>
</template>
