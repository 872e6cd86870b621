<script setup lang="ts">
import { ref, watch } from 'vue'

/**
 * A field that is saved when it is left: what is being typed is a draft, which nothing that comes
 * in meanwhile wipes out. Enter saves a line, Escape gives the draft up.
 */
const props = defineProps<{ value: string; lines?: number }>()
const emit = defineEmits<{ save: [value: string] }>()

const draft = ref(props.value)
const typing = ref(false)
watch(
  () => props.value,
  (value) => {
    if (!typing.value) draft.value = value
  },
)

function leave() {
  typing.value = false
  if (draft.value !== props.value) emit('save', draft.value)
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
  <textarea
    v-if="lines"
    v-model="draft"
    :rows="lines"
    @focus="typing = true"
    @blur="leave"
    @keydown="onKey"
  />
  <input v-else v-model="draft" @focus="typing = true" @blur="leave" @keydown="onKey" />
</template>
