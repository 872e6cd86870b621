/** What is looked at and done while a rehearsal is held, in the order of its tabs. */
export type Part = 'values' | 'why' | 'which' | 'spot' | 'trace' | 'breakpoints' | 'changes'

export const PARTS: { part: Part; title: string }[] = [
  { part: 'values', title: 'Values' },
  { part: 'why', title: 'Why not found?' },
  { part: 'which', title: 'Which one is it?' },
  { part: 'spot', title: 'On the spot' },
  { part: 'trace', title: 'Trace' },
  { part: 'breakpoints', title: 'Breakpoints' },
  { part: 'changes', title: 'Changed' },
]
