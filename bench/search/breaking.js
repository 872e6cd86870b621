// Breaks one marked thing of a page in a known way; returns whether it could be broken so.
;(way, mark, clues, late) => {
  const node = document.querySelector(`[data-truth="${mark}"]`)
  if (!node) return false
  const words = (change) => {
    const walker = document.createTreeWalker(node, NodeFilter.SHOW_TEXT)
    for (let text = walker.nextNode(); text; text = walker.nextNode())
      if (text.nodeValue.trim()) return (text.nodeValue = change(text.nodeValue.trim())), true
    for (const label of node.labels ?? [])
      for (const text of label.childNodes)
        if (text.nodeType === 3 && text.nodeValue.trim()) return (text.nodeValue = change(text.nodeValue.trim())), true
    for (const name of ['aria-label', 'placeholder', 'title', 'alt', 'value'])
      if (node.getAttribute(name)) return node.setAttribute(name, change(node.getAttribute(name))), true
    return false
  }
  const ATTRIBUTES = { id: 'id', 'field name': 'name', 'test id': 'data-testid', href: 'href', placeholder: 'placeholder' }
  const attributes = (change) => {
    let done = false
    for (const clue of clues) {
      const name = ATTRIBUTES[clue] ?? (node.hasAttribute(clue) ? clue : '')
      const held = name && node.getAttribute(name)
      if (!held) continue
      const now = change(held)
      if (name === 'id')
        document.querySelectorAll(`[for="${CSS.escape(held)}"]`).forEach((one) => one.setAttribute('for', now))
      node.setAttribute(name, now)
      done = true
    }
    return done
  }
  const textual = clues.some((one) => ['name', 'text', 'own', 'label', 'title'].includes(one))
  const renamed = (change, mark) => [attributes(mark), textual && words(change)].some(Boolean)
  const ways = {
    renamed: () => renamed((t) => `${t} now`, (v) => `new-${v.length}-${v.slice(0, 3)}`),
    case: () => textual && words((t) => (t === t.toUpperCase() ? t.toLowerCase() : t.toUpperCase())),
    number: () => words((t) => t.replace(/\d+/g, (n) => String(Number(n) + 17))),
    doubled: () => node.after(node.cloneNode(true)) ?? true,
    hidden: () => ((node.style.display = 'none'), true),
    disabled: () => 'disabled' in node && ((node.disabled = true), true),
    covered: () => {
      const over = document.createElement('div')
      over.style.cssText = 'position:fixed;inset:0;z-index:2147483000;background:#eee;padding:40px'
      over.innerHTML = '<p>Winter hours: the studio closes at four.</p><button>Got it</button>'
      over.querySelector('button').onclick = () => over.remove()
      document.body.append(over)
      return true
    },
    moving: () => {
      if (getComputedStyle(node).display === 'inline') node.style.display = 'inline-block'
      node.animate([{ transform: 'none' }, { transform: 'translate(60px, 20px)' }],
        { duration: 500, iterations: Infinity, direction: 'alternate' })
      return true
    },
    later: () => {
      const place = document.createComment('later')
      node.replaceWith(place)
      setTimeout(() => place.replaceWith(node), late)
      return true
    },
    window: () => (node.remove(), true),
    gone: () => (node.remove(), true),
    'signed out': () => {
      document.title = 'Sign in'
      document.body.innerHTML = '<h1>Sign in</h1><label>Member <input name=m></label>' +
        '<label>Password <input type=password name=p></label><button>Sign in</button>'
      return true
    },
  }
  return Boolean(ways[way]())
}
