/**
 * The probe: a small script in an isolated world of every page under test. It reports facts and
 * performs what it is told; it decides nothing.
 */
import { pathOfPress } from './aftermath'
import { hiding } from './hiding'
import { at, describe, describeAt } from './describing'
import { dropDragged, watchDrag } from './dropping'
import { aimAt, centre } from './aiming'
import { looks, quiet, watch } from './changing'
import { lookup } from './lookup'
import { adopt, handleOf, nodeOf, select, unsureHosts } from './nodes'
import { beingMade } from './making'
import { metBy, startMeeting } from './meeting'
import { chose, read, readAll, toChoose, toType } from './reading'
import { lookForHosts, startReporting } from './reporting'
import { shown } from './showing'
import { scrollOn } from './scrolling'
import { survey, nodeByXPath, xpathOf } from './survey'

declare global {
  // The browser adds this function to the probe's world; it takes one string.
  var lanternReport: ((payload: string) => void) | undefined
  var lantern: typeof probe
}

const probe = {
  lookup,
  quiet,
  aim: aimAt,
  centre,
  metBy,
  read,
  toType,
  toChoose,
  chose,
  at,
  /** A node at a point: its facts, rivals and all its properties. */
  pick(x: number, y: number, pressable: string, up = 0) {
    const found = describeAt(x, y, pressable, up)
    const node = found && nodeOf(found.facts.handle)
    return found && node ? { ...found, properties: readAll(node) } : null
  },
  describe(handle: number) {
    const node = nodeOf(handle)
    return node ? describe(node) : null
  },
  /** All properties of a node, by name; null when it is gone. */
  properties(handle: number) {
    const node = nodeOf(handle)
    return node ? readAll(node) : null
  },
  /** The number of the n-th node that satisfies a selector, or 0. */
  handleAt(selector: string, place: number) {
    const node = [...select(selector)][place]
    return node ? handleOf(node) : 0
  },
  survey,
  shown,
  hiding,
  adopt,
  /** Numbers of nodes that may hold a shadow root which only the browser can look into. */
  unsure() {
    for (const _ of select('slot')) void _
    return unsureHosts()
  },
  pathOfPress,
  looks,
  scrollOn,
  beingMade,
  watchDrag,
  dropDragged,
  /** The number of the node at an XPath, 0 for none, -1 for what is no XPath. */
  handleOfXPath(path: string) {
    const node = nodeByXPath(path)
    return node === 'wrong' ? -1 : node ? handleOf(node) : 0
  },
  /** The absolute XPath of each node, "" for those that have none (inside a shadow root). */
  xpaths: (handles: number[]) =>
    handles.map((handle) => {
      const node = nodeOf(handle)
      return node ? xpathOf(node) : ''
    }),
  /** What the page says of itself. */
  page() {
    const release = document.querySelector(
      'meta[name="release"],meta[name="version"],meta[name="application-version"]',
    )
    return {
      title: document.title,
      address: location.href,
      release: release?.getAttribute('content') ?? '',
    }
  },
  /** Resolves when the tasks that an input has queued have run. */
  settle: () =>
    new Promise<string>((resolve) => setTimeout(() => setTimeout(() => resolve(document.readyState), 0), 0)),
  /** The node itself, for commands of the browser that take one. */
  node: nodeOf,
  report(selector: string) {
    startReporting(selector, (event) => globalThis.lanternReport?.(JSON.stringify(event)))
  },
}

if (!globalThis.lantern) {
  globalThis.lantern = probe
  watch(lookForHosts)
  startMeeting()
}
