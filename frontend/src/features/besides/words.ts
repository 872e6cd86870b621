import type { Shapes } from '@/api/client'
import { ago } from '@/shared/times'

type Differing = Shapes['DifferingOut']

/** What two sentences can differ in, in a word and as a heading. */
export const WHAT: Record<Differing['what'], { short: string; title: string }> = {
  there: { short: 'only in one', title: 'Only one of them has this sentence' },
  sentence: { short: 'values', title: 'What it was given' },
  outcome: { short: 'outcome', title: 'How it ended' },
  found: { short: 'what was found', title: 'What was found' },
  texts: { short: 'texts', title: 'Texts that only one of the pages shows' },
  requests: { short: 'requests', title: 'Requests that only one of them has' },
  console: { short: 'console', title: 'Messages of the console that only one of them has' },
  time: { short: 'time', title: 'How long it took' },
}

/** A play in a line, for choosing among several. */
export function called(play: Shapes['SideOut']) {
  const row = play.number ? `row ${play.number}` : 'its row'
  const run = `${play.kind === 'try' ? 'try' : 'run'} ${play.run}`
  return `${run}, ${row}, ${play.outcome}, ${play.browser || 'usual browser'}, ${ago(play.at)}`
}
