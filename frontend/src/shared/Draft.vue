<script setup lang="ts">
import { nextTick, ref, useAttrs, watch } from 'vue'

import { connection } from '@/api/connection'
import { merged } from '@/shared/conflicts'
import { draftOf, dropDraft, keepDraft } from '@/shared/drafts'

/**
 * A field that is saved when it is left: what is being typed is a draft, which nothing that comes
 * in meanwhile wipes out, and which wipes out nothing: where the value became another one since the
 * field was entered, the person is asked. Enter saves a line, Escape gives the draft up. Under
 * `keep` the draft stays at this desk until then, so that a reload loses nothing; what could not be
 * saved since Lantern does not answer is marked, and saved as soon as it does.
 *
 * `onSave` is a property because the field may be gone (with what it floated in) when they answer.
 */
const props = defineProps<{
  value: string
  lines?: number
  keep?: string
  onSave?: (value: string) => unknown
}>()
const attrs = useAttrs()

interface Kept {
  text: string
  was: string
}
const left = props.keep ? draftOf<Kept>(props.keep) : undefined
const draft = ref(left?.text ?? props.value)
const typing = ref(false)
/** What stands here is not what is saved, and nobody is typing. */
const unsaved = ref(left !== undefined && left.text !== props.value)
let was = left?.was ?? props.value
watch(
  () => props.value,
  (value) => {
    if (unsaved.value && value !== draft.value) return
    if (typing.value && draft.value !== was) return
    unsaved.value = false
    draft.value = was = value
  },
)
watch(draft, (text) => {
  if (!props.keep || !typing.value) return
  if (text === was) dropDraft(props.keep)
  else keepDraft(props.keep, { text, was } satisfies Kept)
})

function enter() {
  typing.value = true
  if (!unsaved.value) was = props.value
}
function forget() {
  unsaved.value = false
  if (props.keep) dropDraft(props.keep)
}
async function leave() {
  typing.value = false
  const mine = draft.value
  if (mine === was) {
    forget()
    draft.value = props.value
    return
  }
  const text = await merged(String(attrs['aria-label'] ?? ''), mine, was, props.value)
  draft.value = text ?? props.value
  if (text === null || text === props.value) return forget()
  await props.onSave?.(text)
  await nextTick()
  unsaved.value = connection.down && props.value !== text
  if (!unsaved.value) forget()
}
watch(
  () => connection.down,
  (down) => {
    if (!down && unsaved.value && !typing.value) void leave()
  },
)
function onKey(event: KeyboardEvent) {
  const field = event.target as HTMLElement
  if (event.key === 'Escape') {
    draft.value = was = props.value
    forget()
    field.blur()
  } else if (event.key === 'Enter' && !props.lines) {
    event.preventDefault()
    field.blur()
  }
}
const mark = 'Not saved yet. Leaving the field saves it, Escape gives it up.'
</script>

<template>
  <textarea
    v-if="lines"
    v-model="draft"
    :rows="lines"
    :class="unsaved && 'unsaved'"
    :title="unsaved ? mark : undefined"
    @focus="enter"
    @blur="leave"
    @keydown="onKey"
  />
  <input
    v-else
    v-model="draft"
    :class="unsaved && 'unsaved'"
    :title="unsaved ? mark : undefined"
    @focus="enter"
    @blur="leave"
    @keydown="onKey"
  />
</template>
