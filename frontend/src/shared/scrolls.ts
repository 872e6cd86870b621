import type { ObjectDirective } from 'vue'

const watching = new WeakMap<HTMLElement, ResizeObserver>()
const REACHED = 'a[href], button, input, select, textarea, [tabindex]:not([tabindex="-1"])'

function look(place: HTMLElement): void {
  const scrolls = place.scrollHeight > place.clientHeight || place.scrollWidth > place.clientWidth
  if (scrolls && !place.querySelector(REACHED)) place.tabIndex = 0
  else place.removeAttribute('tabindex')
}

/** Lets the keyboard scroll a place: it takes the focus while it scrolls and nothing in it does. */
export const vScrolls: ObjectDirective<HTMLElement> = {
  mounted(place) {
    const observer = new ResizeObserver(() => look(place))
    observer.observe(place)
    watching.set(place, observer)
    look(place)
  },
  updated: look,
  beforeUnmount(place) {
    watching.get(place)?.disconnect()
    watching.delete(place)
  },
}
