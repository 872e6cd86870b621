<script setup lang="ts">
import { ref, useAttrs, watch } from 'vue'

import { merged } from '@/shared/conflicts'

/**
 * A field that is saved when it is left: what is being typed is a draft, which nothing that comes
 * in meanwhile wipes out, and which wipes out nothing: where the value became another one since the
 * field was entered, the person is asked. Enter saves a line, Escape gives the draft up.
 *
 * `onSave` is a property because the field may be gone (with what it floated in) when they answer.
 */
const props = defineProps<{ value: string; lines?: number; onSave?: (value: string) => unknown }>()
const attrs = useAttrs()

const draft = ref(props.value)
const typing = ref(false)
let was = props.value
watch(
  () => props.value,
  (value) => {
    if (typing.value && draft.value !== was) return
    draft.value = was = value
  },
)

function enter() {
  typing.value = true
  was = props.value
}
async function leave() {
  typing.value = false
  const mine = draft.value
  if (mine === was) {
    draft.value = props.value
    return
  }
  const text = await merged(String(attrs['aria-label'] ?? ''), mine, was, props.value)
  draft.value = text ?? props.value
  if (text !== null && text !== props.value) props.onSave?.(text)
}
function onKey(event: KeyboardEvent) {
  const field = event.target as HTMLElement
  if (event.key === 'Escape') {
    draft.value = props.value
    field.blur()
  } else if (event.key === 'Enter' && !props.lines) {
    event.preventDefault()
    field.blur()
  }
}
</script>

<template>
  <textarea v-if="lines" v-model="draft" :rows="lines" @focus="enter" @blur="leave" @keydown="onKey" />
  <input v-else v-model="draft" @focus="enter" @blur="leave" @keydown="onKey" />
</template>
