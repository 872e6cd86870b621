<script setup lang="ts">
import { BrushCleaning } from '@lucide/vue'
import { computed, ref } from 'vue'

import type { Shapes } from '@/api/client'
import { vScrolls } from '@/shared/scrolls'

/** The presses that did nothing: what sweeping would take out, and whether the rest plays without it. */
const props = defineProps<{ test: Shapes['TestOut']; busy: boolean }>()
const emit = defineEmits<{ sweep: []; tryWithout: [steps: string[]] }>()

const open = ref(false)
const idle = computed(() => props.test.steps.filter((step) => step.idle))
const number = (id: string) => props.test.steps.findIndex((step) => step.id === id) + 1
const words = (step: (typeof idle.value)[number]) => step.parts.map((part) => part.text).join(' ')

function sweep() {
  open.value = false
  emit('sweep')
}
</script>

<template>
  <div v-if="idle.length" class="border-b border-line bg-sheet px-4 py-1 text-sm" data-role="sweep">
    <p class="flex items-center gap-2">
      {{
        idle.length === 1
          ? 'One press did nothing on its page.'
          : `${idle.length} presses did nothing on their pages.`
      }}
      <button
        class="button-bare ml-auto"
        :aria-expanded="open"
        title="See what would be taken out"
        @click="open = !open"
      >
        <BrushCleaning :size="16" /> Sweep {{ idle.length }}
      </button>
    </p>
    <div v-if="open" class="pb-1">
      <ul v-scrolls class="max-h-32 overflow-auto text-soft">
        <li v-for="step in idle" :key="step.id">{{ number(step.id) }} · {{ words(step) }}</li>
      </ul>
      <p class="mt-1 flex flex-wrap gap-2">
        <button
          class="button"
          :disabled="busy"
          @click="
            emit(
              'tryWithout',
              idle.map(({ id }) => id),
            )
          "
        >
          Play the rest first
        </button>
        <button class="button button-main" @click="sweep">
          Take {{ idle.length === 1 ? 'it' : 'them' }} out
        </button>
        <button class="button-bare" @click="open = false">
          Leave {{ idle.length === 1 ? 'it' : 'them' }}
        </button>
      </p>
    </div>
  </div>
</template>
