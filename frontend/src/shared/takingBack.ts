import { ApiProblem } from '@/api/client'

import { asked } from './questions'

/**
 * Take something of one's own back. Where others built on it, the person is asked, and `go` is done
 * with force or not at all: then the answer is `otherwise`.
 */
export async function takenBack<T>(go: (force: boolean) => Promise<T>, otherwise: T): Promise<T> {
  try {
    return await go(false)
  } catch (error) {
    if (!(error instanceof ApiProblem) || error.code !== 'built_on') throw error
    const sure = await asked({
      title: 'Somebody went on from there',
      text: [`${error.message} ${error.hint}`, error.where].filter(Boolean).join('\n\n'),
      yes: 'Take it back all the same',
      no: 'Leave it',
    })
    return sure ? go(true) : otherwise
  }
}
