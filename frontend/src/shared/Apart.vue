<script setup lang="ts">
import { computed } from 'vue'

import { apart } from './apart'

/** A text with what differs from another marked. */
const props = defineProps<{ text: string; other: string }>()
const parts = computed(() => apart(props.text, props.other))
</script>

<template>
  <span class="whitespace-pre-wrap"
    >{{ parts.start
    }}<mark v-if="other && parts.middle" class="rounded bg-lit-paper text-lit-ink" data-role="differs-here">{{
      parts.middle
    }}</mark
    ><template v-else>{{ parts.middle }}</template
    >{{ parts.end }}</span
  >
</template>
