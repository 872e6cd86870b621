import type { VNode } from 'vue'

/** For what opens near the edge of a list: scroll so that all of it is seen. */
export function intoView(vnode: VNode): void {
  const node = vnode.el as HTMLElement | null
  window.requestAnimationFrame(() => node?.scrollIntoView?.({ block: 'nearest' }))
}
