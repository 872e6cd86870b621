// Changes a page as its makers may: one sort of change, on a share of what is marked as known.
;(sort, seed) => {
  let state = seed
  const chance = () => ((state = (state * 1103515245 + 12345) % 2147483648), state / 2147483648)
  const all = [...document.querySelectorAll('[data-truth]')]
  const befall = (node) => { node.closest('[data-truth]')?.setAttribute('data-befell', 'yes'); return node }
  const chosen = all.filter(() => chance() < 0.4)
  // What a change befalls is marked when it is taken up: that alone says whether strength told true.
  const change = (node, how) => {
    const before = node.outerHTML
    befall(node)
    const marked = node.outerHTML
    how(node)
    if (node.isConnected && node.outerHTML === marked && before !== marked && ['case', 'wording', 'tags', 'kind'].includes(sort)) node.removeAttribute('data-befell')
  }
  const some = { forEach: (f) => chosen.forEach((n) => change(n, f)), slice: (a, b) => ({ forEach: (f) => chosen.slice(a, b).forEach((n) => change(n, f)) }) }
  const retag = (node, tag, more = {}) => {
    const made = document.createElement(tag)
    for (const { name, value } of node.attributes) made.setAttribute(name, value)
    for (const [name, value] of Object.entries(more)) value === null ? made.removeAttribute(name) : made.setAttribute(name, value)
    made.append(...node.childNodes)
    node.replaceWith(made)
  }
  const words = (node, change) => {
    const walker = document.createTreeWalker(node, NodeFilter.SHOW_TEXT)
    for (let text = walker.nextNode(); text; text = walker.nextNode())
      if (text.nodeValue.trim()) return (text.nodeValue = change(text.nodeValue.trim()))
  }
  const noise = () => 'x' + Math.floor(chance() * 1e9).toString(36)
  const sorts = {
    classes: () => document.querySelectorAll('[class]').forEach((n) => { if (!(n instanceof SVGElement)) n.className = n.className.split(/\s+/).map(() => noise()).join(' ') }),
    ids: () => document.querySelectorAll('[id]').forEach((n) => { const id = noise(); for (const by of ['for', 'aria-labelledby', 'aria-describedby', 'aria-controls', 'aria-owns']) document.querySelectorAll(`[${by}~="${CSS.escape(n.id)}"]`).forEach((l) => l.setAttribute(by, l.getAttribute(by).split(/\s+/).map((one) => (one === n.id ? id : one)).join(' '))); n.id = id }),
    wrappers: () => some.forEach((n) => { const d = document.createElement(n.closest('p,span,label,button') ? 'span' : 'div'); n.replaceWith(d); d.append(n) }),
    order: () => document.querySelectorAll('.row,ul,ol,tbody,section').forEach((n) => { if (n.closest('[role=tree],[role=radiogroup]') === null) [...n.children].reverse().forEach((c) => n.append(c)) }),
    case: () => some.forEach((n) => words(n, (t) => t.toUpperCase() + ':')),
    wording: () => some.slice(0, 1).forEach((n) => words(n, (t) => t.split(' ').length > 1 ? t.replace(/\S+$/, 'now') : `${t} now`)),
    tags: () => some.forEach((n) => { if (n.tagName === 'BUTTON') retag(n, 'a', { href: '#', role: 'button', type: null }); else if (n.tagName === 'A') retag(n, 'button', { href: null, type: 'button' }); else if (n.tagName === 'SPAN') retag(n, 'b') }),
    kind: () => some.slice(0, 2).forEach((n) => { if (n.tagName === 'BUTTON') retag(n, 'a', { href: '#', type: null, id: null }); else if (n.tagName === 'A') retag(n, 'button', { href: null, type: 'button', id: null }) }),
    moved: () => some.slice(0, 2).forEach((n) => { const s = document.createElement('section'); s.innerHTML = '<h2>Moved here</h2>'; document.body.append(s); s.append(n.closest('label') ?? n) }),
    doubled: () => some.slice(0, 2).forEach((n) => { const s = document.createElement('section'); s.innerHTML = '<h2>Seen lately</h2>'; const c = n.cloneNode(true); for (const x of [c, ...c.querySelectorAll('*')]) { x.removeAttribute('data-truth'); x.removeAttribute('data-befell'); x.removeAttribute('id') } s.append(c); document.body.append(s) }),
    removed: () => some.forEach((n) => n.remove()),
    nothing: () => undefined,
  }
  const reach = { classes: '[class]', ids: '[id]', order: '.row *,ul *,ol *,tbody *,section *' }[sort]
  if (reach) all.filter((n) => n.matches(reach)).forEach(befall)
  sorts[sort]()
  return true
}
