import type { QueryClient } from '@tanstack/vue-query'

interface Notice {
  about: string
  id?: number | string
  row?: number
}

/** Which queries a notice makes stale. */
function stale(notice: Notice): unknown[][] {
  switch (notice.about) {
    case 'test':
      return [['test', notice.id], ['tests']]
    case 'element':
      return [['test']]
    case 'run':
      return [['run', notice.id], ['runs'], ['tests'], ...(notice.row ? [['results', notice.row]] : [])]
    case 'defect':
      return [['defects'], ['defect', notice.id], ['run']]
    case 'stations':
      return [['stations']]
    default:
      return [[]] // after a gap everything may have changed
  }
}

/** Keep the queries fresh by the server's notices; returns a function that stops it. */
export function followEvents(queries: QueryClient): () => void {
  const source = new EventSource('/api/events')
  const waiting = new Map<string, unknown[]>()
  let timer = 0
  const flush = () => {
    timer = 0
    for (const key of waiting.values()) void queries.invalidateQueries({ queryKey: key })
    waiting.clear()
  }
  source.onmessage = (event) => {
    for (const key of stale(JSON.parse(event.data) as Notice)) waiting.set(JSON.stringify(key), key)
    if (!timer) timer = window.setTimeout(flush, 60) // many notices of one run make one request
  }
  return () => source.close()
}
