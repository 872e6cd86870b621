import type { QueryClient } from '@tanstack/vue-query'

import { api, ask } from '@/api/client'
import { complain } from '@/shared/notes'
import { takenBack } from '@/shared/takingBack'

/** Take one act of one's own back; where others built on it, the person is asked. */
export async function takeBack(queries: QueryClient, act: number): Promise<void> {
  const go = (force: boolean) =>
    ask(api.POST('/api/acts/{id}/undo', { params: { path: { id: act } }, body: { force } }))
  try {
    await takenBack<unknown>(go, null)
    await Promise.all(
      [['test'], ['pages'], ['element']].map((queryKey) => queries.invalidateQueries({ queryKey })),
    )
  } catch (error) {
    complain(error)
  }
}
