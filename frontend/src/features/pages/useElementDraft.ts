import { computed, ref, watch } from 'vue'
import type { Ref } from 'vue'

import type { Shapes } from '@/api/client'
import { draftOf, dropDraft, keepDraft } from '@/shared/drafts'

/** A fact as a clue that is on or off. */
export interface Clue {
  fact: string
  operator: string
  value: string
  loose: boolean
  on: boolean
}
/** What the stage gives for something that was picked in the place of an element. */
export interface Repicked {
  kind: string
  clues: Clue[]
  spare: Clue[]
  seen: object
  lookalikes: object[]
}
interface Kept {
  base: number
  kind: string
  clues: Clue[]
  extra: object
}

const plain = ({ fact, operator = 'is', value, loose = false }: Partial<Clue>) => ({
  fact: fact ?? '',
  operator,
  value: value ?? '',
  loose,
})

/**
 * The clues of an element as they are being edited. What is changed stays at this desk until it is
 * saved or given up, whatever is opened meanwhile; `base` is the version that it was made from.
 */
export function useElementDraft(id: () => string, element: Ref<Shapes['ElementFull'] | undefined>) {
  const clues = ref<Clue[]>([])
  const extra = ref<object>({})
  const kind = ref('')
  const changed = ref(false)
  const base = ref(0)
  const place = () => `element ${id()}`

  function takeOver() {
    const now = element.value
    if (!now) return
    changed.value = false
    clues.value = now.clues.map((one) => ({ ...plain(one), on: one.on }))
    kind.value = now.kind
    extra.value = {}
    base.value = now.version
    dropDraft(place())
  }
  function takeUp() {
    const kept = draftOf<Kept>(place())
    if (!kept) return takeOver()
    clues.value = kept.clues
    kind.value = kept.kind
    extra.value = kept.extra
    base.value = kept.base
    changed.value = true
  }
  function keep() {
    changed.value = true
    const kept: Kept = { base: base.value, kind: kind.value, clues: clues.value, extra: extra.value }
    keepDraft(place(), kept)
  }
  function takePicked(now: Repicked) {
    clues.value = [
      ...now.clues.map((one) => ({ ...plain(one), on: true })),
      ...now.spare.map((one) => ({ ...plain(one), loose: false, on: false })),
    ]
    kind.value = now.kind
    extra.value = { seen: now.seen, lookalikes: now.lookalikes }
    keep()
  }
  const there = (on: boolean) =>
    clues.value.filter((one) => one.on === on && one.value !== '').map((one) => plain(one))

  watch(id, () => (changed.value = false))
  watch(
    element,
    (now, before) => {
      if (!now || now.id !== id()) return
      if (before?.id !== now.id) takeUp()
      else if (!changed.value) takeOver()
    },
    { immediate: true },
  )

  return {
    clues,
    extra,
    kind,
    changed,
    base,
    keep,
    takeOver,
    takePicked,
    /** Somebody changed the element since the draft was begun. */
    behind: computed(
      () => changed.value && element.value !== undefined && element.value.version !== base.value,
    ),
    draft: computed(() => ({ kind: kind.value, clues: there(true) })),
    spare: () => there(false),
  }
}
