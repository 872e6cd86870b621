/**
 * Dropping what the browser drags, for browsers that begin a drag by themselves but do not end it:
 * the page gets the drop that it would get, made by a script.
 */
import { nodeAt } from './nodes'

interface Dragged {
  source: EventTarget | null
  texts: [type: string, text: string][]
  effect: DataTransfer['effectAllowed']
}

let dragged: Dragged | null = null

/** Take note of what is dragged from now on; listens last, when the page has said what it carries. */
export function watchDrag(): void {
  dragged = null
  addEventListener('dragstart', begins, { once: true })
  addEventListener('drop', isOver, { once: true, capture: true })
  addEventListener('dragend', isOver, { once: true, capture: true })
}

function begins(event: DragEvent) {
  const carried = event.dataTransfer
  if (event.defaultPrevented || !carried) return
  const texts = [...carried.types].map((type): [string, string] => [type, carried.getData(type)])
  const source = event.composedPath()[0] ?? event.target
  dragged = { source, texts, effect: carried.effectAllowed }
}

function isOver() {
  dragged = null
}

/** Drop at a point what has been dragged there, unless the browser did; tells whether it was done. */
export function dropDragged(x: number, y: number): boolean {
  removeEventListener('dragstart', begins)
  removeEventListener('drop', isOver, { capture: true })
  removeEventListener('dragend', isOver, { capture: true })
  const carried = dragged
  dragged = null
  const target = nodeAt(x, y)
  if (!carried || !target) return false
  const data = new DataTransfer()
  for (const [type, text] of carried.texts) data.setData(type, text)
  data.effectAllowed = carried.effect
  const tell = (kind: string, at: EventTarget) =>
    at.dispatchEvent(
      new DragEvent(kind, {
        bubbles: true,
        composed: true,
        cancelable: kind !== 'dragend',
        clientX: x,
        clientY: y,
        dataTransfer: data,
      }),
    )
  // A page takes a drop where it stops what the browser would do with what is dragged over it.
  tell('dragenter', target)
  const taken = !tell('dragover', target)
  if (taken) tell('drop', target)
  if (carried.source) tell('dragend', carried.source)
  return taken
}
