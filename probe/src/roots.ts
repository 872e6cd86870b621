/** Shadow roots: those that only the browser can reach, and what happens in any of them. */
import { unsureHosts } from './nodes'

const SOON = 120
let timer: ReturnType<typeof setTimeout> | undefined

/** Tell of nodes that may hide a closed root, soon after the page has changed. */
export function tellHosts(look: () => void, send: (event: object) => void): void {
  if (timer !== undefined) return
  timer = setTimeout(() => {
    timer = undefined
    look()
    const hosts = unsureHosts()
    if (hosts.length) send({ type: 'hosts', hosts })
  }, SOON)
}
