/** How outcomes look: always a shape and a word as well as a colour. */
interface Look {
  shape: string
  colour: string
  hollow?: boolean
}

const ROUND = 'M6 1.5a4.5 4.5 0 1 0 0.01 0z'
const PEAK = 'M6 1.2 11 10.6H1z'
const BLOCK = 'M2 2h8v8H2z'
const HALF = 'M6 1.5a4.5 4.5 0 0 1 0 9z'
const WAVE = 'M1 4.2Q3.5 .4 6 4.2T11 4.2V8Q8.5 11.8 6 8T1 8z'
const DASH = 'M1.5 6h9'

const LOOKS: Record<string, Look> = {
  passed: { shape: ROUND, colour: 'text-good' },
  unsteady: { shape: WAVE, colour: 'text-odd' },
  failed: { shape: PEAK, colour: 'text-bad' },
  skipped: { shape: ROUND, colour: 'text-soft', hollow: true },
  interrupted: { shape: BLOCK, colour: 'text-odd' },
  cancelled: { shape: BLOCK, colour: 'text-soft', hollow: true },
  up: { shape: ROUND, colour: 'text-good' },
  down: { shape: BLOCK, colour: 'text-soft', hollow: true },
  paused: { shape: DASH, colour: 'text-odd' },
  draining: { shape: HALF, colour: 'text-odd' },
  drained: { shape: ROUND, colour: 'text-odd', hollow: true },
  running: { shape: HALF, colour: 'text-act' },
  queued: { shape: DASH, colour: 'text-soft', hollow: true },
  waiting: { shape: DASH, colour: 'text-soft', hollow: true },
}

export function look(outcome: string): Look {
  return LOOKS[outcome] ?? { shape: DASH, colour: 'text-soft', hollow: true }
}
