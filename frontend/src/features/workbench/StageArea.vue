<script setup lang="ts">
import { computed } from 'vue'

import { session } from '@/api/client'
import type { Catalogue, Test } from '@/api/client'
import LiveRow from '@/features/runs/LiveRow.vue'
import StillPanel from '@/features/pages/StillPanel.vue'

import Stage from './Stage.vue'
import { theWorkbench } from './useWorkbench'

/** Where the application is seen: on the stage, on a still of it, or as a run has it now. */
const props = defineProps<{ test: Test; catalogue: Catalogue }>()
const {
  stage,
  still,
  takeStill,
  recording,
  checks,
  element,
  playing,
  running,
  shine,
  fixed,
  busy,
  send,
  drawer,
  rehearsing,
  takeRepicked,
  of,
} = theWorkbench()
const { going, live } = running
const { checking, tried } = checks
const { repicking, verdict } = element
const { full } = drawer.layout
/** Whether the run that is looked at is one's own, so that a row of it can be taken in hand. */
const mine = computed(() => running.run.data.value?.run.author === session.me?.account.name)
/** The row of the run that its author has in hand, which is the stage meanwhile. */
const inHand = computed(() => (going.value && live.value?.hand ? live.value.id : 0))
const path = computed(() => {
  if (inHand.value) return `/api/live/cast/${inHand.value}`
  return `/api/live/stage/${props.test.id}${of ? `?of=${of}` : ''}`
})
</script>

<template>
  <div class="flex min-h-0 min-w-0 flex-col">
    <div v-if="going && !inHand" class="relative min-h-0 flex-1 overflow-auto bg-sunk p-2">
      <LiveRow v-if="live" :key="live.id" :cast="live.id" :mine="mine" />
      <p v-else class="panel p-3 text-sm text-soft">Waiting for a station to begin…</p>
    </div>
    <Stage
      v-if="!fixed"
      v-show="(inHand || !going) && !still.saved"
      :key="path"
      ref="stage"
      v-model:recording="recording"
      v-model:checking="checking"
      v-model:repicking="repicking"
      v-model:full="full"
      class="flex-1"
      :path="path"
      :start="test.environment.address"
      :shine="shine"
      @picked="checks.pick"
      @checked="checks.end"
      @still="still.taken"
      @peeked="still.peeked = $event"
      @tried="tried = $event"
      @verdict="verdict = $event"
      @repicked="takeRepicked"
      @rehearsal="rehearsing.hear"
      @playing="playing.playing.value = $event"
      @played="playing.played"
      @proved="playing.proved"
    />
    <StillPanel
      v-if="still.saved && (inHand || !going)"
      v-model:wide="full"
      class="flex-1"
      live
      :saved="still.saved"
      :catalogue="catalogue"
      :busy="busy"
      :before="still.before"
      :peeked="still.peeked"
      @peek="send({ type: 'peek', node: $event })"
      @act="still.act"
      @again="takeStill"
      @close="still.close()"
    />
    <p v-if="fixed" class="flex flex-1 items-center justify-center text-soft">
      A viewer reads the story; testers use the stage.
    </p>
  </div>
</template>
