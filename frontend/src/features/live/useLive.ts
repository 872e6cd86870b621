import { onScopeDispose, readonly, ref, shallowRef } from 'vue'

import type { Shapes } from '@/api/client'

/** What a station says over a live connection; one shape a type. */
export type Said = Shapes['Said']
/** What an author asks a stage for. */
export type Asked = Shapes['Asked']
export type Box = Shapes['BoxSaid']
export type StageWindow = Shapes['WindowSaid']
export type StageDialog = Shapes['DialogSaid']
export type Peeked = Shapes['PeekedSaid']
export type Tried = Shapes['TriedSaid']
export type Picked = Shapes['PickedSaid']
/** A check of what was picked, and what else can be made of it. */
export type Check = Shapes['CheckAsked']
export type CheckAs = NonNullable<Shapes['ChecksAsked']['as']>

export type Phase = 'connecting' | 'open' | 'refused' | 'lost'

/** A live connection: pictures go to `onPicture`, messages to `onSaid`; it reconnects by itself. */
export function useLive(path: string, onPicture: (picture: Blob) => void, onSaid: (said: Said) => void) {
  const phase = ref<Phase>('connecting')
  const trouble = shallowRef({ message: '', hint: '' })
  let socket: WebSocket | null = null
  let over = false
  let away = false
  let timer = 0
  let tries = 0

  function connect() {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    socket = new WebSocket(`${scheme}://${location.host}${path}`)
    socket.binaryType = 'blob'
    socket.onmessage = ({ data }) => {
      if (data instanceof Blob) {
        onPicture(data)
        return
      }
      const said = JSON.parse(data) as Said
      if (said.type === 'refused') {
        trouble.value = said
        phase.value = 'refused'
        return
      }
      if (said.type === 'state') {
        phase.value = 'open'
        tries = 0
      }
      if (said.type === 'ended') over = true
      onSaid(said)
    }
    socket.onclose = () => {
      if (over || away) return
      if (phase.value !== 'refused') phase.value = 'lost'
      tries += 1
      timer = window.setTimeout(connect, Math.min(500 * tries, 4000))
    }
  }

  function send(message: Asked): void {
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message))
  }

  function close() {
    over = true
    window.clearTimeout(timer)
    socket?.close()
  }

  // A page that is left may be kept by the browser, for going back: nobody looks at it meanwhile.
  const leave = () => {
    if (!over) socket?.close()
    window.clearTimeout(timer)
    away = true
  }
  const back = ({ persisted }: PageTransitionEvent) => {
    if (!persisted || over) return
    away = false
    connect()
  }
  window.addEventListener('pagehide', leave)
  window.addEventListener('pageshow', back)
  connect()
  onScopeDispose(() => {
    window.removeEventListener('pagehide', leave)
    window.removeEventListener('pageshow', back)
    close()
  })
  return { phase: readonly(phase), trouble: readonly(trouble), send, close }
}
