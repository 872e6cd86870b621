<script setup lang="ts">
import { Timer } from '@lucide/vue'
import { computed } from 'vue'

import type { Test } from '@/api/client'

import type { Edits } from '@/features/editing/useEdits'

/** What the fixed pauses of a test cost, and turning them into waits. */
const props = defineProps<{ test: Test; edits: Edits }>()

const pauses = computed(() => props.test.steps.filter((step) => step.action === 'pause' && step.enabled))
const paused = computed(() => pauses.value.reduce((sum, step) => sum + (Number(step.inputs.seconds) || 0), 0))
/** Fixed pauses become waits, one edit each, so that each can be undone. */
async function toWaits() {
  for (const step of pauses.value) await props.edits.edit({ do: 'to wait', step: step.id })
}
</script>

<template>
  <p
    v-if="pauses.length"
    class="flex items-center gap-2 border-b border-line bg-sheet px-4 py-1 text-sm"
    data-role="pauses"
  >
    {{ pauses.length === 1 ? 'A fixed pause adds' : `${pauses.length} fixed pauses add` }}
    {{ paused }} s to each row<template v-if="test.row_count > 1"
      >, {{ paused * test.row_count }} s to all</template
    >.
    <button
      class="button-bare ml-auto"
      title="Wait for what the recording saw become ready there, or else for what the next sentence needs; this can be undone"
      @click="toWaits"
    >
      <Timer :size="16" /> {{ pauses.length === 1 ? 'Turn it into a wait' : 'Turn them into waits' }}
    </button>
  </p>
</template>
