import { computed } from 'vue'

import { isNight } from '@/shared/theme'

/** Outcomes in the order in which they are stacked, each with the colour of the theme it has. */
export const OUTCOMES = [
  { name: 'passed', colour: '--good' },
  { name: 'unsteady', colour: '--odd' },
  { name: 'failed', colour: '--bad' },
  { name: 'interrupted', colour: '--strong-line' },
  { name: 'cancelled', colour: '--line' },
] as const

/** The colours of the theme that is on, for what is drawn without style sheets. */
export const colours = computed(() => {
  void isNight.value
  const style = getComputedStyle(document.documentElement)
  return (name: string) => style.getPropertyValue(name).trim()
})
