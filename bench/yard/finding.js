// Where on the page a person sees something: "css", "css|text", "css|text#2", open shadow roots included.
;(spec, extra) => {
  const [, css, text, place] = spec.match(/^(.*?)(?:\|(.*?))?(?:#(\d+))?$/s)
  const found = []
  const walk = (root) => {
    for (const node of root.querySelectorAll('*')) {
      if (node.matches(css)) found.push(node)
      if (node.shadowRoot) walk(node.shadowRoot)
    }
  }
  walk(document)
  for (const root of extra ?? []) walk(root)
  const words = (node) => (node.innerText ?? node.textContent ?? '').trim().toLowerCase()
  const wanted = text?.toLowerCase()
  const shown = found.filter((node) => {
    const box = node.getBoundingClientRect()
    return box.width && box.height && node.checkVisibility({ visibilityProperty: true, opacityProperty: true })
  })
  const label = (node) => node.getAttribute('aria-label')?.toLowerCase() ?? ''
  const right =
    text === undefined
      ? shown
      : [...shown.filter((n) => words(n) === wanted || label(n) === wanted), ...shown.filter((n) => words(n).includes(wanted))]
  const node = [...new Set(right)][(place ?? 1) - 1]
  if (!node) return null
  let box = node.getBoundingClientRect()
  const deep = (x, y) => {
    let hit = document.elementFromPoint(x, y)
    for (;;) {
      const root = hit?.shadowRoot ?? (extra ?? []).find((r) => r.host === hit)
      const inner = root?.elementFromPoint(x, y)
      if (!inner || inner === hit) return hit
      hit = inner
    }
  }
  const reached = () => {
    const hit = deep(box.x + box.width / 2, box.y + box.height / 2)
    for (let at = hit; at; at = at.parentNode ?? at.host) if (at === node) return true
    return !!hit && (hit.contains(node) && hit.closest('label') !== null)
  }
  if (box.y < 0 || box.bottom > innerHeight || box.x < 0 || box.right > innerWidth || !reached()) {
    node.scrollIntoView({ block: 'center', inline: 'nearest', behavior: 'instant' })
    box = node.getBoundingClientRect()
  }
  return { x: box.x, y: box.y, width: box.width, height: box.height, reached: reached(), tag: node.tagName }
}
