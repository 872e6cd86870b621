import { computed } from 'vue'

import { isNight } from '@/shared/theme'

/** Outcomes in the order in which they are stacked, each with the colour of the theme it has. */
export const OUTCOMES = [
  { name: 'passed', colour: '--good', decal: undefined },
  { name: 'unsteady', colour: '--odd', decal: { symbol: 'circle', symbolSize: 0.6, dashArrayX: [4, 4] } },
  {
    name: 'failed',
    colour: '--bad',
    decal: { symbol: 'rect', dashArrayX: [1, 0], dashArrayY: [2, 5], rotation: -Math.PI / 4 },
  },
  {
    name: 'interrupted',
    colour: '--strong-line',
    decal: { symbol: 'rect', dashArrayX: [1, 0], dashArrayY: [2, 4], rotation: Math.PI / 2 },
  },
  { name: 'cancelled', colour: '--line', decal: { symbol: 'rect', dashArrayX: [1, 0], dashArrayY: [2, 6] } },
] as const

/** The colours of the theme that is on, for what is drawn without style sheets. */
export const colours = computed(() => {
  void isNight.value
  const style = getComputedStyle(document.documentElement)
  return (name: string) => style.getPropertyValue(name).trim()
})
