/** Turning what a person does over the picture into messages for the stage. */

import type { Asked } from '@/features/live/useLive'

const BUTTONS = ['left', 'middle', 'right'] as const

export function modifiersOf(event: MouseEvent | KeyboardEvent): number {
  return (event.altKey ? 1 : 0) | (event.ctrlKey ? 2 : 0) | (event.metaKey ? 4 : 0) | (event.shiftKey ? 8 : 0)
}

export function mouseMessage(
  kind: 'move' | 'down' | 'up',
  event: MouseEvent,
  at: { x: number; y: number },
  count: number,
): Asked {
  return {
    type: 'mouse',
    kind,
    ...at,
    button: kind === 'move' && event.buttons === 0 ? 'none' : (BUTTONS[event.button] ?? 'left'),
    buttons: event.buttons,
    count,
    modifiers: modifiersOf(event),
  }
}

export function wheelMessage(event: WheelEvent, at: { x: number; y: number }): Asked {
  return {
    type: 'mouse',
    kind: 'wheel',
    ...at,
    dx: event.deltaX,
    dy: event.deltaY,
    modifiers: modifiersOf(event),
  }
}

/** The message for a key, or null when the key is left to the page (pasting, composing). */
export function keyMessage(kind: 'down' | 'up', event: KeyboardEvent): Asked | null {
  if (event.isComposing || event.key === 'Process' || event.key === 'Dead') return null
  const command = event.ctrlKey || event.metaKey
  if (command && event.key.toLowerCase() === 'v') return null
  const typed =
    event.key === 'Enter' ? '\r' : event.key.length === 1 && !command && !event.altKey ? event.key : ''
  return {
    type: 'key',
    kind,
    key: event.key,
    code: event.code,
    number: event.keyCode,
    modifiers: modifiersOf(event),
    text: typed,
  }
}
