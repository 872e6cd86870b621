import { computed, ref, watch } from 'vue'

import { decide } from './conflicts'
import { draftOf, dropDraft, keepDraft } from './drafts'

/** A text as it is kept, and the version that it is of. */
export interface Source {
  text: string
  version: number
}
interface Kept extends Source {
  base: number
  was: string
}

/**
 * A long text that is being changed: what is typed stays at this desk, whatever is opened or loaded
 * anew, until it is put in place or taken back. `key` names it, `source` is what is kept now.
 */
export function useTextDraft(key: () => string, source: () => Source | undefined) {
  const draft = ref('')
  const clean = ref('')
  const base = ref(0)
  const changed = computed(() => draft.value !== clean.value)
  let shown = ''

  function takeOver() {
    const now = source()
    if (!now) return
    clean.value = draft.value = now.text
    base.value = now.version
    dropDraft(key())
  }
  watch(
    () => [key(), source()?.version, source()?.text] as const,
    ([name]) => {
      if (!source()) return
      const kept = name === shown ? undefined : draftOf<Kept>(name)
      shown = name
      if (kept) [draft.value, clean.value, base.value] = [kept.text, kept.was, kept.base]
      else if (!changed.value) takeOver()
    },
    { immediate: true },
  )
  watch(draft, (text) => {
    if (changed.value)
      keepDraft(key(), { text, was: clean.value, base: base.value } satisfies Omit<Kept, 'version'>)
    else dropDraft(key())
  })

  return {
    draft,
    base,
    changed,
    takeOver,
    /** It was changed elsewhere while it is being changed here. */
    behind: computed(() => changed.value && source() !== undefined && base.value !== source()!.version),
    /** It is kept now, as it stands here. */
    settled(version: number) {
      clean.value = draft.value
      base.value = version
      dropDraft(key())
    },
    /** Let the person say what is to stand of theirs and one's own; true when mine is to be saved. */
    async settle(what: string): Promise<boolean> {
      const now = source()
      if (!now) return false
      const text = now.text === clean.value ? draft.value : await decide(what, draft.value, now.text)
      clean.value = now.text
      base.value = now.version
      draft.value = text ?? now.text
      return text !== null
    },
  }
}
