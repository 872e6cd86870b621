<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Shapes } from '@/api/client'
import type { Box } from '@/features/live/useLive'

import WhyAnswers from './WhyAnswers.vue'
import type { Rehearsing } from './useRehearsal'

/** The search otherwise for what was not found, while it is held. */
const props = defineProps<{ rehearsing: Rehearsing }>()
const emit = defineEmits<{ lit: [boxes: Box[]]; defect: [] }>()
const { search, held, mine, send, mend } = props.rehearsing

const seconds = ref(20)
const going = computed(() => search.value?.state === 'searching')
const begin = () => send({ type: 'search', seconds: seconds.value })
function act(what: Shapes['MendAsk']['act'], given: Record<string, unknown>) {
  if (what === 'raise defect') emit('defect')
  else void mend(what, given)
}
</script>

<template>
  <div class="flex h-full min-h-0 flex-col text-sm" data-role="search" :data-state="search?.state ?? ''">
    <div class="flex items-center gap-2 border-b border-line px-3 py-1">
      <button
        v-if="!going"
        class="button button-main"
        :disabled="!held || !mine"
        data-role="search-now"
        @click="begin"
      >
        {{ search ? 'Search once more' : 'Search otherwise' }}
      </button>
      <button v-else class="button" data-role="stop-search" @click="send({ type: 'stop search' })">
        Stop
      </button>
      <label class="flex items-center gap-1 text-soft"
        >for up to
        <input
          v-model.number="seconds"
          class="field w-16 py-0.5"
          type="number"
          min="1"
          max="120"
          aria-label="Seconds for the search"
        />
        s</label
      >
      <span v-if="going" class="text-soft" role="status"
        >{{ search!.doing }}, {{ Math.ceil(search!.left) }} s left</span
      >
      <span v-else-if="search" class="text-soft" role="status"
        >{{ search.state === 'stopped' ? 'Stopped. ' : '' }}Why “{{ search.name }}” was not found or could not
        be used:</span
      >
    </div>
    <div class="min-h-0 flex-1 overflow-auto px-3">
      <p v-if="!search" class="py-2 text-soft">
        Tries each clue alone, left out and looser; looks for what is like it, for what covers or hides it, in
        other frames and windows, and whether it comes later; asks whether this is the right page at all.
      </p>
      <p v-else-if="!search.answers.length && !going" class="py-2 text-soft">Nothing was found out.</p>
      <WhyAnswers
        v-if="search"
        :answers="search.answers"
        :disabled="!held || !mine"
        @lit="emit('lit', $event as unknown as Box[])"
        @act="act"
      />
    </div>
  </div>
</template>
