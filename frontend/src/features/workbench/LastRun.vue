<script setup lang="ts">
import RunPanel from './RunPanel.vue'
import { theWorkbench } from './useWorkbench'

/** The run that was started here last, and the offer to make the first clean one the baseline. */
const { running, edits, fixed } = theWorkbench()
const { run, rowId, clean, declined } = running
</script>

<template>
  <div class="flex h-full flex-col">
    <p
      v-if="clean && !fixed"
      class="flex shrink-0 items-center gap-2 border-b border-line bg-lit-paper px-4 py-1 text-sm text-lit-ink"
      data-role="offer-baseline"
    >
      The first clean run. Mark it as the baseline, to hold later failures against what changed?
      <button class="button ml-auto" @click="edits.setBaseline(clean.version)">Mark as baseline</button>
      <button class="button-bare" @click="declined = clean.run.id">Not now</button>
    </p>
    <RunPanel
      v-if="run.data.value"
      class="min-h-0 flex-1"
      :run="run.data.value"
      :row="rowId"
      @choose="rowId = $event"
    />
    <p v-else class="px-4 py-3 text-soft">
      Press Try for a quick run, or Run for one on record. What happens shows here.
    </p>
  </div>
</template>
