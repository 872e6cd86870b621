import type { Shapes } from '@/api/client'

export type Kind = Shapes['SignOut']['kind']
export type Verdict = Shapes['VerdictOut']['verdict']

/** The kinds of fault in their order, each with what it means and how its beam is drawn. */
export const KINDS: { kind: Kind; means: string; beam: string }[] = [
  { kind: 'product', means: 'the application does not do what it should', beam: 'bg-bad' },
  { kind: 'test', means: 'the test says something that is not so, or no longer', beam: 'bg-odd' },
  { kind: 'data', means: 'a value of the row or of the environment is wrong', beam: 'bg-act' },
  { kind: 'timing', means: 'it came, but later than the limit', beam: 'bg-lit' },
  { kind: 'environment', means: 'what it runs on was not there or did not work', beam: 'bg-strong-line' },
]

export const meaning = (kind: string) =>
  KINDS.find((one) => one.kind === kind)?.means ?? 'there is not enough to go on'

export const percent = (share: number) => `${Math.round(share * 100)} %`
