import type { Run, Test } from '@/api/client'

type Step = Test['steps'][number]
type Cast = Run['casts'][number]

/** A sentence of a test, with no more than a test is about. */
export const step = (id: string, more: Partial<Step> = {}): Step =>
  ({
    id,
    action: 'fill',
    inputs: {},
    title: '',
    comment: '',
    depth: 0,
    enabled: true,
    element: '',
    ...more,
  }) as Step

/** A test of some sentences. */
export const testOf = (steps: Step[], more: Partial<Test> = {}): Test =>
  ({ id: 1, steps, elements: [], settings: {}, ...more }) as unknown as Test

/** A row of a run. */
export const cast = (id: number, outcome: string, more: Partial<Cast> = {}): Cast =>
  ({ id, outcome, takings: 1, kept: {}, values: {}, ...more }) as unknown as Cast

/** A run of some rows. */
export const runOf = (casts: Cast[], state = 'running'): Run =>
  ({ run: { id: 7, state, rows: {} }, casts, kept: [], waits_for: [], message: '' }) as unknown as Run
