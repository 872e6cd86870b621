import type { QueryKey } from '@tanstack/vue-query'

import { useAct } from './acting'
import { readFile } from './readFile'

const LARGEST = 23 * 1024 * 1024

/**
 * Keeping the files that are chosen in a field, one after the other; the field is empty then, so that
 * the same file can be chosen again.
 * @param put keeps a file: its name, and its content in base64
 * @param stale the queries that list the files
 */
export function useAddingFiles(
  put: (body: { name: string; content: string }) => Promise<unknown>,
  stale: () => QueryKey[],
) {
  const { act } = useAct(
    async ({ chosen }: { names: string[]; chosen: File[] }) => {
      for (const file of chosen) {
        if (file.size > LARGEST) throw new Error(`${file.name} is larger than 23 MB.`)
        await put({ name: file.name, content: await readFile(file) })
      }
    },
    { stale },
  )
  return async function add(event: Event) {
    const field = event.target as HTMLInputElement
    const chosen = [...(field.files ?? [])]
    await act({ names: chosen.map((file) => file.name), chosen })
    field.value = ''
  }
}
