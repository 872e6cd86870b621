/** Numbers for nodes, and walking a document with its open shadow roots. */

const numbers = new WeakMap<Element, number>()
const nodes = new Map<number, WeakRef<Element>>()
// A random start keeps numbers of an earlier document from being taken for nodes of this one.
let last = Math.floor(Math.random() * 2 ** 30)

/** The number of a node, the same for as long as its document lives. */
export function handleOf(node: Element): number {
  let handle = numbers.get(node)
  if (handle === undefined) {
    handle = ++last
    numbers.set(node, handle)
    nodes.set(handle, new WeakRef(node))
  }
  return handle
}

/** The node of a number, or null when it has left the document. */
export function nodeOf(handle: number): Element | null {
  const node = nodes.get(handle)?.deref()
  return node?.isConnected ? node : null
}

/** All nodes that satisfy a selector, in document order, open shadow roots included. */
export function* select(selector: string, root: Document | ShadowRoot = document): Generator<Element> {
  const hosts = hostsIn(root)
  if (hosts.length === 0) {
    yield* root.querySelectorAll(selector)
    return
  }
  for (const node of root.querySelectorAll('*')) {
    if (node.matches(selector)) yield node
    if (node.shadowRoot) yield* select(selector, node.shadowRoot)
  }
}

function hostsIn(root: Document | ShadowRoot): Element[] {
  // Only custom elements and a few plain ones can carry a shadow root.
  const found: Element[] = []
  const walker = document.createTreeWalker(root, NodeFilter.SHOW_ELEMENT)
  for (let node = walker.nextNode() as Element | null; node; node = walker.nextNode() as Element | null) {
    if (node.shadowRoot) found.push(node)
  }
  return found
}

/** The parent across shadow roots. */
export function parentOf(node: Element): Element | null {
  if (node.parentElement) return node.parentElement
  const root = node.getRootNode()
  return root instanceof ShadowRoot ? root.host : null
}

/** The closest node that satisfies a selector, across shadow roots. */
export function closest(node: Element, selector: string): Element | null {
  for (let at: Element | null = node; at; at = parentOf(at)) {
    if (at.matches(selector)) return at
  }
  return null
}

/** The innermost node at a point of the viewport, looking into open shadow roots. */
export function nodeAt(x: number, y: number): Element | null {
  let node = document.elementFromPoint(x, y)
  while (node?.shadowRoot) {
    const inner = node.shadowRoot.elementFromPoint(x, y)
    if (!inner || inner === node) break
    node = inner
  }
  return node
}

/** All nodes at a point, the topmost first, also those in an open shadow root on top. */
export function nodesAt(x: number, y: number): Element[] {
  const found = document.elementsFromPoint(x, y)
  const inner = found[0]?.shadowRoot?.elementsFromPoint(x, y) ?? []
  return [...inner.filter((node) => !found.includes(node)), ...found]
}

/** The node that an event is about, also inside open shadow roots. */
export function targetOf(event: Event): Element | null {
  const node = event.composedPath()[0]
  return node instanceof Element ? node : null
}
