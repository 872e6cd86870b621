import { useMutation, useQueryClient } from '@tanstack/vue-query'
import type { QueryKey } from '@tanstack/vue-query'

import { complain } from './notes'

interface Means<Given, Got> {
  /** The queries that hold something else once it was tried; also a refusal may say that they do. */
  stale?: QueryKey[] | (() => QueryKey[])
  /** What is done once it came off, such as saying so. */
  done?: (got: Got, given: Given) => unknown
  /** Whether a failure is shown in place, as `trouble`, and not said as a note. */
  inPlace?: boolean
}

let acts = 0

/**
 * Something that a person does and the server keeps: its failure told, and what it made stale asked
 * for again. The same thing pressed twice is done once; other things wait until the one before is
 * done, so that none is lost and each begins from what that left.
 * @param send does it; what it is given is what `act` is given
 * @returns `act`, which resolves with what came of it and undefined where nothing did; `busy` while
 * it is under way; `trouble`, why it failed last
 */
export function useAct<Given = void, Got = unknown>(
  send: (given: Given) => Promise<Got>,
  { stale = [], done, inPlace = false }: Means<Given, Got> = {},
) {
  const queries = useQueryClient()
  const mutation = useMutation<Got, unknown, Given>({
    mutationFn: send,
    scope: { id: `act ${++acts}` },
    // Whether Lantern answers is not what the browser calls online: see connection.ts.
    networkMode: 'always',
    gcTime: 0, // what was given may be a password
    // At once, before lists are asked again: what is typed next is not wiped out by it.
    onSuccess: (got, given) => done?.(got, given),
    onError: (error) => {
      if (!inPlace) complain(error)
    },
    onSettled: () => {
      const keys = typeof stale === 'function' ? stale() : stale
      return Promise.all(keys.map((queryKey) => queries.invalidateQueries({ queryKey })))
    },
  })
  const waiting = new Set<string | undefined>()

  async function act(given: Given): Promise<Got | undefined> {
    const what = JSON.stringify(given)
    if (waiting.has(what)) return undefined
    waiting.add(what)
    try {
      return await mutation.mutateAsync(given)
    } catch {
      return undefined // onError has told it
    } finally {
      waiting.delete(what)
    }
  }
  return { act, busy: mutation.isPending, trouble: mutation.error, forget: mutation.reset }
}
