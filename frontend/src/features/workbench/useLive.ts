import { onScopeDispose, readonly, ref, shallowRef } from 'vue'

export interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** What a station says over a live connection; one shape a type. */
export type Said =
  | {
      type: 'state'
      windows: StageWindow[]
      address: string
      dialog: StageDialog | null
      chooser: boolean
      viewport: [number, number] | null
    }
  | { type: 'recording'; on: boolean }
  | { type: 'light'; box: Box | null; name: string; kind: string }
  | { type: 'shine'; boxes: Box[]; name: string; kind: string }
  | {
      type: 'options'
      handle: number
      frame: string
      box: Box
      options: { text: string; disabled: boolean }[]
      selected: number
    }
  | Picked
  | { type: 'checked' }
  | { type: 'still'; page: number }
  | ({ type: 'peeked' } & Peeked)
  | { type: 'tried'; checks: Tried[] }
  | {
      type: 'verdict'
      word: string
      fine: boolean
      why: string
      count: number
      boxes: Box[]
      shows: string[]
    }
  | { type: 'repicked'; element: object; handle: number; strength: number; weakest: string }
  | { type: 'playing'; step: string }
  | { type: 'played'; failed: string; hint: string }
  | { type: 'proved'; differ: number }
  | { type: 'error'; message: string; hint: string }
  | { type: 'refused'; message: string; hint: string }
  | { type: 'ended' }

export interface StageWindow {
  id: string
  title: string
  address: string
  current: boolean
}

export interface StageDialog {
  type: string
  message: string
  default: string
}

/** What a thing of the still shows on the stage now, by property. */
export interface Peeked {
  node: number
  shows: Record<string, string>
}

/** What a check would find now: whether it holds, what is there, why it can not be told. */
export interface Tried {
  property: string
  holds: boolean
  found: string
  why: string
}

export interface Picked {
  type: 'picked'
  name: string
  kind: string
  box: Box
  clues: string[]
  properties: { name: string; value: string; holds: string; common: boolean; first: boolean }[]
  comparisons: string[]
}

export type Phase = 'connecting' | 'open' | 'refused' | 'lost'

/** A live connection: pictures go to `onPicture`, messages to `onSaid`; it reconnects by itself. */
export function useLive(path: string, onPicture: (picture: Blob) => void, onSaid: (said: Said) => void) {
  const phase = ref<Phase>('connecting')
  const trouble = shallowRef({ message: '', hint: '' })
  let socket: WebSocket | null = null
  let over = false
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
      if (over) return
      if (phase.value !== 'refused') phase.value = 'lost'
      tries += 1
      timer = window.setTimeout(connect, Math.min(500 * tries, 4000))
    }
  }

  function send(message: object): void {
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message))
  }

  function close() {
    over = true
    window.clearTimeout(timer)
    socket?.close()
  }

  connect()
  onScopeDispose(close)
  return { phase: readonly(phase), trouble: readonly(trouble), send, close }
}
