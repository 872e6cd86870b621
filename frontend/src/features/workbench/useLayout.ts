import { useLocalStorage, useWindowSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Ref } from 'vue'

import { session } from '@/api/client'

import { HEIGHTS, USUAL_HEIGHT } from './drawer'
import type { Tab } from './drawer'

/** How somebody wants the workbench: sizes in pixels, 0 for the usual ones. */
interface Kept {
  story: number
  drawers: Partial<Record<Tab, number>>
  folded: boolean
  full: boolean
}
const NARROWEST = 300
const LOWEST = 120
/** What the stage keeps at least. */
const STAGE = { width: 320, height: 160 }

/** The usual width of the story in a window: a third, where both have room enough. */
export const usualStory = (window: number): number => Math.round(Math.min(Math.max(window * 0.32, 340), 480))

/** Sizes and folds of the workbench's parts, remembered for each person at this desk. */
export function useLayout(tab: Ref<Tab>) {
  const { width, height } = useWindowSize()
  const kept = useLocalStorage<Kept>(
    `workbench ${session.me?.account.id ?? 0}`,
    { story: 0, drawers: {}, folded: false, full: false },
    { mergeDefaults: true },
  )
  /** Whether the drawer gives its room to something else for a while. */
  const aside = ref(false)
  const folded = computed({
    get: () => kept.value.folded || aside.value,
    set: (on: boolean) => {
      kept.value.folded = on
      aside.value = false
    },
  })
  const full = computed({ get: () => kept.value.full, set: (on: boolean) => (kept.value.full = on) })

  const widest = computed(() => Math.max(NARROWEST, width.value - STAGE.width))
  const story = computed({
    get: () => Math.min(kept.value.story || usualStory(width.value), widest.value),
    set: (size: number) => (kept.value.story = size),
  })
  const highest = computed(() => Math.max(LOWEST, height.value - STAGE.height))
  const drawer = computed({
    get: () => Math.min(kept.value.drawers[tab.value] || (HEIGHTS[tab.value] ?? USUAL_HEIGHT), highest.value),
    set: (size: number) => (kept.value.drawers = { ...kept.value.drawers, [tab.value]: size }),
  })
  return {
    story: { size: story, least: NARROWEST, most: widest, usual: () => (story.value = 0) },
    drawer: { size: drawer, least: LOWEST, most: highest, usual: () => (drawer.value = 0) },
    /** Whether the drawer is folded. */
    folded,
    aside,
    /** Whether stage and still have the room of the story as well. */
    full,
  }
}
