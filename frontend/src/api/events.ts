import type { QueryClient } from '@tanstack/vue-query'

import type { Shapes } from './client'
import { check } from './connection'
import { hear, sayOver } from './presence'
import { takeDelta } from './runDelta'

type Notice = Shapes['Notice']
type RunNotice = Shapes['RunNotice']

/** Which queries a notice makes stale. */
function stale(notice: Notice): unknown[][] {
  switch (notice.about) {
    case 'test':
      return [['test', notice.id], ['tests'], ['flows'], ['tables']]
    case 'element':
      return [['test'], ['pages'], ['element', notice.id]]
    case 'files':
      return [['files', notice.id]]
    case 'run':
      return [['run', notice.id], ['runs'], ['tests']]
    case 'defect':
      return [['defects'], ['defect', notice.id], ['run']]
    case 'comment':
      return [['comments'], ['notices']]
    case 'project':
      return [['project'], ['test']]
    case 'environment':
      return [['environments'], ['test']]
    case 'breakpoints':
      return [['breakpoints']]
    case 'stations':
      return [['stations'], ['plans', 'outlook']]
    case 'plans':
      return [['plans']]
    case 'plan run':
      return [['plan run', notice.id]]
    case 'queue':
      return [['queue']]
    default:
      return [[]] // after a gap everything may have changed
  }
}

/** Milliseconds in which many notices make one request. */
const TOGETHER = 60
/** Milliseconds between two requests for what changes with every row of every run. */
const LISTS = 1000
const pauseOf = ([first]: unknown[]) =>
  ['runs', 'tests', 'run', 'plan run'].includes(String(first)) ? LISTS : 0

const AGAIN = 1500
const LATER = 15_000
/** The code with which connections of a sign-in that has ended are closed. */
const SIGNED_OUT = 4401

/** Keep the queries fresh by the server's notices; returns a function that stops it. */
export function followEvents(queries: QueryClient): () => void {
  const waiting = new Map<string, unknown[]>()
  let socket: WebSocket | null = null
  let flushing = 0
  let reconnecting = 0
  let over = false

  const asked = new Map<string, number>()
  const flush = () => {
    flushing = 0
    const now = Date.now()
    for (const [text, key] of waiting) {
      if (now - (asked.get(text) ?? 0) < pauseOf(key)) continue
      asked.set(text, now)
      waiting.delete(text)
      void queries.invalidateQueries({ queryKey: key })
    }
    if (waiting.size) flushing = window.setTimeout(flush, TOGETHER)
  }
  const wait = (key: unknown[]) => {
    waiting.set(JSON.stringify(key), key)
    flushing ||= window.setTimeout(flush, TOGETHER)
  }
  const take = (notice: Notice) => stale(notice).forEach(wait)
  const connect = (again: boolean) => {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    socket = new WebSocket(`${scheme}://${location.host}/api/live/events`)
    let refused = false
    socket.onmessage = ({ data }) => {
      const told = JSON.parse(data) as Notice & { type?: string }
      if (told.type === 'refused') refused = true
      else if (told.about === 'presence') hear(told)
      else if ('delta' in told) takeDelta(queries, told as RunNotice, wait)
      else take(told)
    }
    const own = socket
    // Something was missed meanwhile, unless this connection is one too many.
    socket.onopen = () => {
      sayOver((text) => own.readyState === WebSocket.OPEN && own.send(text))
      if (again) window.setTimeout(() => !refused && take({ about: '' }), 200)
    }
    socket.onclose = ({ code }) => {
      sayOver(null)
      if (over) return
      if (!refused) check()
      if (code === SIGNED_OUT) take({ about: 'signed out' }) // whatever is asked next says so
      reconnecting = window.setTimeout(() => connect(true), refused ? LATER : AGAIN)
    }
  }
  // A page that is left may be kept by the browser, for going back, with its connection open.
  const leave = () => {
    over = true
    window.clearTimeout(reconnecting)
    socket?.close()
  }
  const back = ({ persisted }: PageTransitionEvent) => {
    if (!persisted) return
    over = false
    connect(true)
  }
  window.addEventListener('pagehide', leave)
  window.addEventListener('pageshow', back)
  connect(false)
  return () => {
    window.removeEventListener('pagehide', leave)
    window.removeEventListener('pageshow', back)
    leave()
  }
}
