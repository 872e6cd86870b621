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
  const node = onceOf(handle)
  return node?.isConnected ? node : null
}

/** The node that a handle was given to, also when the page has taken it away since. */
export const onceOf = (handle: number): Element | null => nodes.get(handle)?.deref() ?? null

const closed = new WeakMap<Element, ShadowRoot>()
const asked = new WeakSet<Element>()
const found = new WeakSet<ShadowRoot>()
const met: ShadowRoot[] = []
const takers: ((root: ShadowRoot) => void)[] = []
let unsure: Element[] = []

/** The shadow root of a node: an open one, or a closed one that the browser has handed over. */
export function rootOf(node: Element): ShadowRoot | null {
  return node.shadowRoot ?? closed.get(node) ?? null
}

/** Take in a closed shadow root that only the browser can reach. */
export function adopt(host: Element, root: ShadowRoot): void {
  closed.set(host, root)
  meet(root)
}

/** Call `take` for every shadow root that is met from now on, and for those that were. */
export function onRoots(take: (root: ShadowRoot) => void): void {
  takers.push(take)
  for (const root of met) take(root)
}

/** The shadow roots that were met and are still on the page. */
export const roots = (): ShadowRoot[] => met.filter((root) => root.host.isConnected)

function meet(root: ShadowRoot): void {
  if (found.has(root)) return
  found.add(root)
  met.push(root)
  for (const take of takers) take(root)
}

const MOST_UNSURE = 40

/** Numbers of nodes that may hold a closed root and were not asked for yet. */
export function unsureHosts(): number[] {
  const hosts = unsure.filter((node) => node.isConnected).map(handleOf)
  unsure = []
  return hosts
}

const HOSTS = new Set('ARTICLE ASIDE DIV FOOTER HEADER MAIN NAV P SECTION SPAN'.split(' '))

/** Whether a node may hide a closed root: a custom element, or something empty that takes up room. */
function mayHide(node: Element): boolean {
  if (node.tagName.includes('-')) return true
  if (!HOSTS.has(node.tagName) || node.firstChild) return false
  const { width, height } = node.getBoundingClientRect()
  return width > 40 && height > 15
}

/** All nodes that satisfy a selector, in document order, known shadow roots included. */
export function* select(selector: string, root: Document | ShadowRoot = document): Generator<Element> {
  const hosts = hostsIn(root)
  if (hosts.length === 0) {
    yield* root.querySelectorAll(selector)
    return
  }
  for (const node of root.querySelectorAll('*')) {
    if (node.matches(selector)) yield node
    const inner = rootOf(node)
    if (inner) yield* select(selector, inner)
  }
}

function hostsIn(root: Document | ShadowRoot): Element[] {
  const found: Element[] = []
  const walker = document.createTreeWalker(root, NodeFilter.SHOW_ELEMENT)
  for (let node = walker.nextNode() as Element | null; node; node = walker.nextNode() as Element | null) {
    const inner = rootOf(node)
    if (inner) {
      meet(inner)
      found.push(node)
    } else if (unsure.length < MOST_UNSURE && !asked.has(node) && mayHide(node)) {
      asked.add(node)
      unsure.push(node)
    }
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

/** The innermost node at a point of the viewport, looking into shadow roots. */
export function nodeAt(x: number, y: number): Element | null {
  let node = document.elementFromPoint(x, y)
  for (let root = node && rootOf(node); node && root; root = rootOf(node)) {
    const inner = root.elementFromPoint(x, y)
    if (!inner || inner === node) break
    node = inner
  }
  return node
}

/** The innermost node that has the focus; null for none but the body. */
export function focused(): Element | null {
  let node = document.activeElement
  for (let root = node && rootOf(node); node && root?.activeElement; root = rootOf(node))
    node = root.activeElement
  return node === document.body || node === document.documentElement ? null : node
}

/** All nodes at a point, the topmost first, also those in a shadow root on top. */
export function nodesAt(x: number, y: number): Element[] {
  const found = document.elementsFromPoint(x, y)
  const root = found[0] && rootOf(found[0])
  const inner = root?.elementsFromPoint(x, y) ?? []
  return [...inner.filter((node) => !found.includes(node)), ...found]
}

/** The node that an event is about, also inside shadow roots. */
export function targetOf(event: Event): Element | null {
  const node = event.composedPath()[0]
  if (!(node instanceof Element)) return null
  if (node.shadowRoot || !rootOf(node)) return node
  // A closed root keeps its nodes to itself: the point or the focus tells which one it is.
  return (event instanceof MouseEvent ? nodeAt(event.clientX, event.clientY) : focused()) ?? node
}
