import type { VNode } from 'vue'

const GAP = 4

/** For what opens inside something that clips: fixed beside its button, where the window has room. */
export function beside(vnode: VNode): void {
  const node = vnode.el as Node | null
  if (!(node instanceof HTMLElement)) return // it is closed: a mark stands in its place
  const button = node.previousElementSibling?.getBoundingClientRect()
  if (!button) return
  const { height, width } = node.getBoundingClientRect()
  const below = window.innerHeight - button.bottom - GAP
  const top = below >= height ? button.bottom + GAP : Math.max(GAP, button.top - GAP - height)
  node.style.top = `${top}px`
  node.style.left = `${Math.max(GAP, Math.min(button.left, window.innerWidth - width - GAP))}px`
}
