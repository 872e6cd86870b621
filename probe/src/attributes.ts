/** What its makers wrote on a node: marks, addresses, data of their own. */
import { tidy } from './texts'

const TEST_IDS = ['data-testid', 'data-test-id', 'data-test', 'data-qa', 'data-cy', 'data-automation-id']
/** What tells a node from others, by itself. */
const TELLING = ['id', 'name', 'placeholder', 'title', 'alt', 'href', 'src', 'aria-label']
const KEPT = [...TELLING, 'type', 'for', 'class', 'aria-haspopup', 'min', 'max', 'maxlength', 'pattern']

/** The attributes by which a node may be known alone, as `attributesOf` names them. */
export const IDENTIFYING = [...TELLING, 'data-testid', 'data-date', 'data-value', 'data-key', 'data-id']

export function attributesOf(node: Element): Record<string, string> {
  const found: Record<string, string> = {}
  for (const name of KEPT) {
    const value = node.getAttribute(name)
    if (value) found[name] = tidy(value)
  }
  if ((node as HTMLElement).isContentEditable && node.hasAttribute('contenteditable'))
    found.contenteditable = 'true'
  if (found.href || found.src) leadOn(node, found)
  if (node.hasAttributes()) ownData(node, found)
  for (const name of TEST_IDS) {
    const value = node.getAttribute(name)
    if (value && !found['data-testid']) found['data-testid'] = tidy(value)
  }
  return found
}

/** Addresses as they lead, without the host that the page itself is on: tests follow environments. */
function leadOn(node: Element, found: Record<string, string>): void {
  for (const name of ['href', 'src']) {
    const written = found[name]
    if (!written || /^(data|blob|javascript):/i.test(written)) continue
    const led = resolved(written, node.baseURI)
    if (led === written) continue
    found[name] = tidy(led)
    found[`written ${name}`] = written
  }
}

const PLAIN = /^\/(?:[\w-]+\/?)*$/

/** An address resolved; those of the page's own origin as a path. */
export function resolved(address: string, base: string): string {
  // Most lead where they say, and reading one is dear.
  if (PLAIN.test(address) && base.startsWith(`${location.origin}/`)) return address
  try {
    const url = new URL(address, base)
    if (url.origin === location.origin && /^https?:/.test(url.protocol))
      return url.href.slice(url.origin.length)
    return url.href
  } catch {
    return address
  }
}

const DATA = /^data-(?:[a-z]+-)?(date|value|key|id)$/

/** What a page says of its things for its own scripts, where it says which one it is. */
function ownData(node: Element, found: Record<string, string>): void {
  for (const { name, value } of node.attributes) {
    const kind = DATA.exec(name)?.[1]
    if (kind && value && value.length <= 40 && !found[`data-${kind}`]) found[`data-${kind}`] = tidy(value)
  }
}
