// What every page of the yard has: its state, kept by the page and told to the server.
(() => {
  const { page, epoch, base } = window.yardSays
  const shelf = `yard ${page}`
  const kept = JSON.parse(localStorage.getItem(shelf) ?? '{}')
  const state = kept.epoch === epoch ? kept.state : {}
  const waiting = []
  const socket = new WebSocket(`ws://${base}/tell`)
  const send = (text) => (socket.readyState === 1 ? socket.send(text) : waiting.push(text))
  socket.onopen = () => waiting.splice(0).forEach((text) => socket.send(text))
  window.yard = {
    state,
    set(key, value) {
      state[key] = value
      localStorage.setItem(shelf, JSON.stringify({ epoch, state }))
      send(JSON.stringify({ page, epoch, key, value }))
    },
    add: (key, value) => yard.set(key, [...(state[key] ?? []), value]),
    count: (key) => yard.set(key, (state[key] ?? 0) + 1),
  }
})()
