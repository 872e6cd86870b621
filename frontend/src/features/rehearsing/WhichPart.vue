<script setup lang="ts">
import { computed, onMounted, watch } from 'vue'

import type { Box } from '@/features/live/useLive'
import Picture from '@/shared/Picture.vue'

import type { Rehearsing } from './useRehearsal'

/** Which thing is the element: all that may be it, lit on the stage, and where it used to be. */
const props = defineProps<{ rehearsing: Rehearsing }>()
const emit = defineEmits<{ lit: [boxes: Box[]]; edit: [element: string] }>()
const { candidates, held, send, state } = props.rehearsing
const found = computed(() => candidates.value?.all ?? [])
const fits = computed(() => found.value.filter((one) => one.fits))
const ask = () => held.value && send({ type: 'candidates' })
onMounted(ask)
watch(() => state.value?.moment, ask)
watch(
  candidates,
  (now) =>
    now &&
    emit(
      'lit',
      (fits.value.length ? fits.value : found.value.slice(0, 1)).map((one) => one.box),
    ),
)
const share = (of: number) => `${Math.round(of * 100)} %`
</script>

<template>
  <div class="grid h-full min-h-0 grid-cols-[1fr_20rem] gap-3 px-3 py-1 text-sm" data-role="which">
    <div class="min-h-0 overflow-auto">
      <p v-if="!candidates" class="py-2 text-soft">
        {{ held ? 'Looking…' : 'As soon as the rehearsal is held, what may be the element is listed here.' }}
      </p>
      <template v-else>
        <p class="flex items-center gap-2 py-1">
          <b>{{ candidates.name }}</b>
          <span class="text-soft">
            {{
              fits.length === 1 ? 'one thing fits its clues' : `${fits.length || 'no'} things fit its clues`
            }}
          </span>
          <button class="button ml-auto px-2 py-0.5" @click="emit('edit', candidates.element)">
            Edit the element, or pick it again
          </button>
        </p>
        <ol>
          <li
            v-for="one in found"
            :key="one.node"
            class="flex items-baseline gap-2 border-b border-line py-0.5"
            tabindex="0"
            data-role="candidate"
            @mouseenter="emit('lit', [one.box])"
            @focus="emit('lit', [one.box])"
          >
            <span class="w-12 shrink-0 text-right text-xs text-soft">{{ share(one.share) }}</span>
            <span class="wrap-anywhere">“{{ one.name }}”</span>
            <span v-if="one.fits" class="chip shrink-0">fits the clues</span>
            <span class="text-xs text-soft wrap-anywhere">{{ one.differs.join('; ') }}</span>
          </li>
        </ol>
      </template>
    </div>
    <figure v-if="candidates?.picture" class="min-h-0 overflow-auto">
      <figcaption class="text-xs text-soft">
        Then, when it was recorded; now it is on the stage above.
      </figcaption>
      <Picture :digest="candidates.picture" :box="candidates.place" alt="Where it was when it was recorded" />
    </figure>
  </div>
</template>
