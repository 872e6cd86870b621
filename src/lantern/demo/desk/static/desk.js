// What the desk's pages do by script: menus, lists, drags, dialogs. Nothing here names an id.
const note = (what, value) => {
  for (const place of document.querySelectorAll('.said')) place.textContent = `${what}: ${value}`
  return fetch('/note', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ what, value: String(value), at: performance.timeOrigin + performance.now() }),
    keepalive: true,
  })
}
const at = (event, selector) => event.composedPath().find((node) => node.matches?.(selector))

// -- row menus and the question before deleting
document.addEventListener('click', (event) => {
  const opener = event.target.closest('[data-opens]')
  for (const list of document.querySelectorAll('.menu ul')) {
    list.hidden = !(opener && list.id === opener.dataset.opens && list.hidden)
  }
})
document.addEventListener('submit', (event) => {
  const question = event.target.dataset.question
  if (question && !confirm(question)) event.preventDefault()
})

// -- editing in place
document.addEventListener('dblclick', (event) => {
  const cell = at(event, '[data-edit]')
  if (!cell || cell.querySelector('input')) return
  const before = cell.textContent
  const field = Object.assign(document.createElement('input'), { value: before, size: 3 })
  field.setAttribute('aria-label', 'Number of pieces in the firing')
  cell.replaceChildren(field)
  field.select()
  field.addEventListener('keydown', async (pressed) => {
    if (pressed.key === 'Escape') cell.textContent = before
    if (pressed.key !== 'Enter') return
    const count = Number(field.value) || Number(before)
    cell.textContent = count
    await fetch(cell.dataset.edit, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ count }),
    })
  })
})

// -- whatever only notes something
document.addEventListener('click', (event) => {
  const button = at(event, '[data-note]')
  if (button) note(button.dataset.note, button.dataset.value)
  if (at(event, '[data-closes]')) document.querySelector('[data-notice]').hidden = true
  if (at(event, '[data-shows-notice]')) document.querySelector('[data-notice]').hidden = false
  const toggle = at(event, '[data-switch]')
  if (toggle) {
    const on = toggle.getAttribute('aria-checked') !== 'true'
    toggle.setAttribute('aria-checked', on)
    note(toggle.dataset.switch, on)
  }
})
document.addEventListener('dblclick', (event) => {
  const twice = at(event, '[data-twice]')
  if (twice) note(twice.dataset.twice, 'twice')
})
document.addEventListener('contextmenu', (event) => {
  const button = at(event, '[data-context]')
  if (!button) return
  event.preventDefault()
  button.parentElement.querySelector('.context').hidden = false
})
document.addEventListener('click', (event) => {
  for (const menu of document.querySelectorAll('.context')) {
    if (!event.target.closest('[data-context]')) menu.hidden = true
  }
})
document.addEventListener('change', (event) => {
  const field = event.composedPath()[0]
  const what = field.dataset?.keep || field.name
  if (!what || !field.closest('.quote, [data-keep]') || field.form) return
  const value = field.multiple
    ? [...field.selectedOptions].map((one) => one.text).join(', ')
    : field.type === 'checkbox'
      ? field.checked
      : field.value
  note(what, value)
})
// A change inside a shadow root does not leave it: those fields are listened to where they are.
for (const host of document.querySelectorAll('cone-chart')) {
  host.shadowRoot?.addEventListener('change', (event) => note(event.target.dataset.keep, event.target.value))
}
document.addEventListener('focusout', (event) => {
  const field = event.target.closest?.('.editable[data-keep]')
  if (field && field.textContent) note(field.dataset.keep, field.textContent.trim())
})
document.addEventListener('keydown', (event) => {
  if (event.key === 'Enter' && event.target.dataset?.enter) note(event.target.dataset.enter, `sent ${event.target.value}`)
  if (event.key === 'Enter' && event.ctrlKey && event.target.name === 'remarks') note('remarks sent', event.target.value)
})

// -- what is carried with the pointer, without the browser's own dragging
for (const token of document.querySelectorAll('[data-token]')) {
  let from = null
  token.addEventListener('pointerdown', (event) => (from = [event.clientX, event.clientY]))
  addEventListener('pointermove', (event) => {
    if (!from) return
    token.classList.add('carried')
    token.style.transform = `translate(${event.clientX - from[0]}px, ${event.clientY - from[1]}px)`
  })
  addEventListener('pointerup', (event) => {
    if (!from) return
    from = null
    const spot = document.elementsFromPoint(event.clientX, event.clientY).find((one) => one.matches('.spot'))
    token.classList.remove('carried')
    token.style.transform = ''
    if (spot) {
      spot.append(token)
      note(token.dataset.token, spot.getAttribute('aria-label'))
    }
  })
}

// -- a list of our own with typing ahead
for (const box of document.querySelectorAll('[data-picker]')) {
  const field = box.querySelector('input')
  const list = box.querySelector('[role=listbox]')
  const options = [...list.children]
  const open = (on) => {
    list.hidden = !on
    field.setAttribute('aria-expanded', on)
  }
  const choose = (option) => {
    field.value = option.textContent
    open(false)
    note(box.dataset.picker, option.textContent)
  }
  field.addEventListener('focus', () => open(true))
  field.addEventListener('click', () => open(true))
  field.addEventListener('blur', () => open(false))
  field.addEventListener('input', () => {
    open(true)
    for (const one of options) one.hidden = !one.textContent.toLowerCase().includes(field.value.toLowerCase())
  })
  field.addEventListener('keydown', (event) => {
    const shown = options.filter((one) => !one.hidden)
    if (event.key === 'Enter' && shown[0] && !list.hidden) choose(shown[0])
  })
  list.addEventListener('mousedown', (event) => event.preventDefault())
  list.addEventListener('click', (event) => event.target.role === 'option' && choose(event.target))
}
// -- a list that is fetched when it opens and hangs at the end of the page
for (const box of document.querySelectorAll('[data-late]')) {
  const button = box.querySelector('button')
  button.addEventListener('click', async () => {
    const old = document.querySelector('.floating')
    if (old) return old.remove()
    const list = document.createElement('div')
    list.className = 'floating'
    list.setAttribute('role', 'listbox')
    list.textContent = 'Loading…'
    const { left, bottom } = button.getBoundingClientRect()
    list.style.left = `${left + scrollX}px`
    list.style.top = `${bottom + scrollY}px`
    document.body.append(list)
    const { kilns } = await (await fetch('/kilns')).json()
    list.replaceChildren(
      ...kilns.map((name) => {
        const option = document.createElement('div')
        option.setAttribute('role', 'option')
        option.textContent = name
        option.addEventListener('click', () => {
          button.textContent = name
          list.remove()
          note(box.dataset.late, name)
        })
        return option
      }),
    )
  })
}

// -- drag and drop onto shelves
document.addEventListener('dragstart', (event) => {
  const piece = at(event, '[data-piece]')
  if (piece) event.dataTransfer.setData('text/plain', piece.dataset.piece)
})
document.addEventListener('dragover', (event) => {
  if (at(event, '[data-shelf]')) event.preventDefault()
})
document.addEventListener('drop', (event) => {
  const shelf = at(event, '[data-shelf]')
  const name = event.dataTransfer.getData('text/plain')
  const piece = document.querySelector(`[data-piece="${name}"]`)
  if (!shelf || !piece) return
  event.preventDefault()
  shelf.append(piece)
  note(`shelf of ${name}`, shelf.dataset.shelf)
})
// -- a slider of our own that follows the pointer
for (const slider of document.querySelectorAll('[data-slider]')) {
  const set = (value, over) => {
    const now = Math.max(0, Math.min(10, Math.round(value)))
    slider.setAttribute('aria-valuenow', now)
    slider.firstElementChild.style.left = `${now * 10}%`
    if (over) note(slider.dataset.slider, now)
  }
  const place = (event) => {
    const { left, width } = slider.getBoundingClientRect()
    return ((event.clientX - left) / width) * 10
  }
  slider.addEventListener('pointerdown', (event) => {
    slider.setPointerCapture(event.pointerId)
    slider.onpointermove = (moved) => set(place(moved))
    set(place(event))
  })
  slider.addEventListener('pointerup', (event) => {
    slider.onpointermove = null
    set(place(event), true)
  })
  slider.addEventListener('keydown', (event) => {
    const now = Number(slider.getAttribute('aria-valuenow'))
    if (event.key === 'ArrowRight') set(now + 1, true)
    if (event.key === 'ArrowLeft') set(now - 1, true)
  })
}

// -- dialogs, windows, slow loading
document.addEventListener('click', (event) => {
  const kind = at(event, '[data-talk]')?.dataset.talk
  if (kind === 'message') alert('Never open a hot kiln.')
  if (kind === 'question') note('kiln', confirm('Light the kiln now?') ? 'lit' : 'cold')
  if (kind === 'text') note('firing name', prompt('What is this firing called?', 'Ember 1') ?? 'nothing')
  const address = at(event, '[data-window]')?.dataset.window
  if (address) window.open(address, '', 'width=700,height=500')
  const loader = at(event, '[data-load]')
  if (!loader) return
  const bar = loader.parentElement.querySelector('progress')
  const then = loader.parentElement.querySelector('[data-loaded]')
  bar.hidden = false
  then.disabled = true
  const timer = setInterval(() => (bar.value += 7), 100)
  fetch(loader.dataset.load).then(() => {
    clearInterval(timer)
    bar.value = 100
    then.disabled = false
  })
})

// -- the firing curve
for (const canvas of document.querySelectorAll('[data-canvas]')) {
  const pen = canvas.getContext('2d')
  pen.strokeStyle = '#c4683a'
  pen.lineWidth = 3
  pen.beginPath()
  pen.moveTo(10, 150)
  pen.bezierCurveTo(120, 140, 160, 20, 240, 20)
  pen.lineTo(300, 20)
  pen.lineTo(390, 150)
  pen.stroke()
  // Not offsetX: browsers do not agree whether the border counts.
  canvas.addEventListener('click', (event) => {
    const box = canvas.getBoundingClientRect()
    note('curve', event.clientX - box.left > box.width / 2 ? 'right half' : 'left half')
  })
}
