/** Reporting what a person does on the page while recording. Nothing is decided here. */
import { isActInField, startAftermath } from './aftermath'
import { startDragging } from './dragging'
import { startKeys } from './keying'
import { startWatching } from './meanwhile'
import { onRoots, select, targetOf } from './nodes'
import { drop, startPresses } from './presses'
import { listOf } from './reading'
import { noteScrolling } from './drawing'
import { noteHover, notePress, noteScroll } from './revealing'
import { tellHosts } from './roots'
import { showsChange, startShowing } from './showing'
import { tellWaiting } from './later'
import { listenInside, startTyping, stopTyping } from './typing'

type Send = (event: object) => void

let pressable = '*'
let send: Send = () => undefined

/** A native list opens as Lantern's own list: no picture of the page shows the browser's. */
function onMouseDown(event: MouseEvent): void {
  if (event.button !== 0 || !event.isTrusted) return
  const list = listOf(targetOf(event))
  if (!list) return
  event.preventDefault()
  ;(list.node as HTMLElement).focus()
  send({ type: 'options', ...list.shown })
}

function onPressed(): void {
  tellWaiting()
  stopTyping()
}

function onOver(event: MouseEvent): void {
  const node = targetOf(event)
  if (node && event.isTrusted) noteHover(node)
}

let titled = ''

/** The browser itself tells of a title when it comes to that; a tab without one says too little. */
function tellTitle(): void {
  if (top !== self || document.title === titled) return
  titled = document.title
  send({ type: 'title', page: titled })
}

/** The page has changed: it may be called otherwise, or hold what only the browser can look into. */
export function lookForHosts(): void {
  showsChange()
  if (pressable === '*') return
  tellTitle()
  tellHosts(() => [...select('slot')], send)
}

/** Start reporting: `selector` tells what a press means as a whole, `sender` takes the events. */
export function startReporting(selector: string, sender: Send): void {
  const first = pressable === '*'
  pressable = selector
  send = sender
  if (!first) return
  const report = (event: object) => send({ page: document.title, address: location.href, ...event })
  const capture = { capture: true }
  startWatching()
  startAftermath(report)
  startShowing(report, isActInField)
  onRoots(listenInside)
  for (const type of ['pointerdown', 'mousedown', 'keydown']) addEventListener(type, notePress, capture)
  startDragging(() => pressable, report)
  startPresses(() => pressable, report, onPressed)
  startTyping(report)
  startKeys(report)
  addEventListener('dragstart', drop, capture)
  addEventListener('mousedown', onMouseDown, capture)
  addEventListener('mouseover', onOver, capture)
  for (const take of [noteScrolling, noteScroll])
    addEventListener('scroll', take, { capture: true, passive: true })
  lookForHosts()
}
