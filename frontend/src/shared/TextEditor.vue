<script setup lang="ts">
import { autocompletion } from '@codemirror/autocomplete'
import type { CompletionSource } from '@codemirror/autocomplete'
import { python } from '@codemirror/lang-python'
import { yaml } from '@codemirror/lang-yaml'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, keymap } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { basicSetup } from 'codemirror'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { Shapes } from '@/api/client'

/** An editor of text with what is wrong at its line, and words that fit. */
const props = defineProps<{
  troubles: Shapes['TroubleOut'][]
  fixed: boolean
  language: 'yaml' | 'python'
  /** What is called for people who do not see it. */
  label: string
  /** The word that was begun at a place of the text, and what fits. */
  complete?: (before: string) => { typed: string; options: string[] } | null
}>()
const text = defineModel<string>({ required: true })
const emit = defineEmits<{ save: []; line: [line: number] }>()

const place = ref<HTMLElement | null>(null)
let view: EditorView | null = null

const LOOK = EditorView.theme({
  '&': { height: '100%', fontSize: '13px', color: 'var(--ink)', backgroundColor: 'var(--paper)' },
  '.cm-scroller': { fontFamily: 'ui-monospace, monospace', lineHeight: '1.5' },
  '.cm-gutters': { backgroundColor: 'var(--sunk)', color: 'var(--soft)', border: 'none' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--sunk)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground, ::selection': {
    backgroundColor: 'var(--lit-paper) !important',
  },
  '.cm-tooltip': {
    backgroundColor: 'var(--sheet)',
    color: 'var(--ink)',
    border: '1px solid var(--strong-line)',
  },
  '.cm-tooltip-autocomplete ul li[aria-selected]': {
    backgroundColor: 'var(--lit-paper)',
    color: 'var(--lit-ink)',
  },
})
const COLOURS = HighlightStyle.define([
  { tag: tags.propertyName, color: 'var(--act)' },
  { tag: [tags.string, tags.content], color: 'var(--ink)' },
  { tag: tags.comment, color: 'var(--soft)' },
  { tag: [tags.keyword, tags.definitionKeyword, tags.controlKeyword], color: 'var(--odd)' },
])

const completing: CompletionSource = (context) => {
  const found = props.complete?.(context.state.sliceDoc(0, context.pos))
  if (!found || (!found.options.length && !context.explicit)) return null
  return {
    from: context.pos - found.typed.length,
    options: found.options.map((label) => ({ label })),
    validFor: /^[^\n]*$/,
  }
}

onMounted(() => {
  view = new EditorView({
    parent: place.value!,
    state: EditorState.create({
      doc: text.value,
      extensions: [
        keymap.of([{ key: 'Mod-s', preventDefault: true, run: () => (emit('save'), true) }]),
        basicSetup,
        props.language === 'yaml' ? yaml() : python(),
        LOOK,
        syntaxHighlighting(COLOURS),
        ...(props.complete ? [autocompletion({ override: [completing] })] : []),
        EditorState.readOnly.of(props.fixed),
        EditorView.contentAttributes.of({ 'aria-label': props.label }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged) text.value = update.state.doc.toString()
          else if (update.selectionSet) {
            emit('line', update.state.doc.lineAt(update.state.selection.main.head).number)
          }
        }),
      ],
    }),
  })
  view.scrollDOM.tabIndex = 0 // what scrolls can be scrolled by keys
})
onBeforeUnmount(() => view?.destroy())

watch(text, (now) => {
  if (!view || view.state.doc.toString() === now) return
  view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
})
watch(
  () => props.troubles,
  (troubles) => {
    if (!view) return
    const { doc } = view.state
    const marks = troubles.map(({ line, message, hint }) => {
      const { from, to } = doc.line(Math.min(Math.max(line, 1), doc.lines))
      return { from, to, severity: 'error' as const, message: `${message} ${hint}`.trim() }
    })
    view.dispatch(setDiagnostics(view.state, marks))
  },
)
</script>

<template>
  <div ref="place" class="overflow-hidden" />
</template>
