<script setup lang="ts">
import { ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { complain, say } from '@/shared/notes'

import StillView from './StillView.vue'
import { vScrolls } from '@/shared/scrolls'

/** Taking a page, or a part of it, in as elements: what to keep, and under which names. */
const props = defineProps<{ saved: number }>()
const emit = defineEmits<{ done: [] }>()

const still = ref<InstanceType<typeof StillView> | null>(null)
const picked = ref<number[]>([])
const looked = ref<Shapes['TakenOut'][]>([])
const names = ref<Record<number, string>>({})
const SPECIAL = new Set(['text', 'heading', 'picture', 'option'])

const asked = () => picked.value.map((node) => ({ node, name: names.value[node] ?? '' }))
watch(picked, async (now) => {
  if (!now.length) {
    looked.value = []
    return
  }
  try {
    const got = await ask(
      api.POST('/api/saved-pages/{id}/look', {
        params: { path: { id: props.saved } },
        body: { nodes: asked() },
      }),
    )
    looked.value = got.taken
  } catch (error) {
    complain(error)
  }
})
function whole() {
  picked.value = (still.value?.nodes ?? []).filter((node) => !SPECIAL.has(node.kind)).map((node) => node.node)
}
const { act: take } = useAct(
  () =>
    ask(
      api.POST('/api/saved-pages/{id}/take', {
        params: { path: { id: props.saved } },
        body: { nodes: asked() },
      }),
    ),
  {
    stale: [['pages']],
    done: ({ taken }) => {
      say(`${taken.length} ${taken.length === 1 ? 'element is' : 'elements are'} taken in.`)
      emit('done')
    },
  },
)
</script>

<template>
  <StillView ref="still" v-model:picked="picked" :saved="saved">
    <div v-if="looked.length" v-scrolls class="mb-2 max-h-56 overflow-auto" data-role="taking">
      <label v-for="one in looked" :key="one.node" class="mb-1 block text-xs">
        <span :class="one.matches === 1 ? 'text-good' : 'text-odd'">{{
          one.matches === 1 ? 'unique' : `matches ${one.matches}`
        }}</span>
        <span class="text-soft"> · {{ one.clues.join(' and ') }}</span>
        <input
          v-model="names[one.node]"
          class="field"
          :placeholder="one.name"
          :aria-label="`Name for ${one.name}`"
        />
      </label>
    </div>
    <p v-else class="mb-2 text-sm text-soft">Pick what to keep, in the list or on the picture.</p>
    <div class="flex flex-wrap gap-1.5">
      <button class="button" @click="whole">All controls</button>
      <button class="button ml-auto" @click="emit('done')">Close</button>
      <button class="button button-main" :disabled="!picked.length" @click="take()">
        Take in {{ picked.length || '' }}
      </button>
    </div>
  </StillView>
</template>
