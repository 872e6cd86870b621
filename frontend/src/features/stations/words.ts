import type { Shapes } from '@/api/client'

/** The browsers of a station, with their versions where they say them. */
export const browsersOf = (station: Shapes['StationOut']): string =>
  station.engines.map((one) => one.version || one.title).join(', ') || 'none is installed'

/** What each mode is called where it is chosen, and what it does. */
export const MODES = [
  { mode: 'works', words: 'Work', title: 'Take casts and open stages' },
  { mode: 'paused', words: 'Pause', title: 'End what it plays and take nothing new; stages still open' },
  {
    mode: 'draining',
    words: 'Drain',
    title: 'End what it plays, take nothing new and open no stages, so that it can be stopped',
  },
] as const
