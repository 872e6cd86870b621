/** Reporting keys that do more than type: what the page makes of them decides whether they count. */
import { beginAct } from './aftermath'
import { describe } from './describing'
import { isSecret, isTextual } from './fields'
import { meanwhile } from './meanwhile'
import { focused, targetOf } from './nodes'
import { tellWaiting } from './later'
import { rememberKey } from './presses'
import { editorOf, stopTyping } from './typing'

const QUIET = new Set(['Shift', 'Control', 'Alt', 'Meta', 'CapsLock', 'Dead', 'Process', 'Unidentified'])

function named(event: KeyboardEvent): string {
  const held = [
    event.ctrlKey && 'Control',
    event.altKey && 'Alt',
    event.metaKey && 'Meta',
    event.shiftKey && event.key.length > 1 && 'Shift',
  ].filter(Boolean)
  return [...held, event.key === ' ' ? 'Space' : event.key].join('+')
}

let report: (event: object) => void = () => undefined

function onKey(event: KeyboardEvent): void {
  if (!event.isTrusted || event.isComposing || QUIET.has(event.key)) return
  const node = targetOf(event) ?? document.body
  const editor = editorOf(node)
  const modified = event.ctrlKey || event.altKey || event.metaKey
  // A page that types by itself refuses the letter: only afterwards is that known.
  if (event.key.length === 1 && !modified && isTextual(node)) {
    setTimeout(() => {
      // The letters of a password are never told one by one: nothing of it may stand in a story.
      if (event.defaultPrevented && !editor && !isSecret(node)) tell(event, node)
    }, 0)
    return
  }
  tell(event, editor ?? node, !!editor)
}

function tell(event: KeyboardEvent, node: Element, editor = false): void {
  const own = node === document.body || node === document.documentElement
  const before = own ? [] : meanwhile(node)
  tellWaiting()
  const press = beginAct(event, focused())
  const described = own ? null : describe(node, editor)
  rememberKey(described)
  report({
    type: 'key',
    ...(described ?? {}),
    meanwhile: before,
    value: named(event),
    editor,
    press,
  })
  if (event.key.length > 1) stopTyping()
}

/** Begin: `sender` takes the events. */
export function startKeys(sender: (event: object) => void): void {
  report = sender
  addEventListener('keydown', onKey, { capture: true })
}
