import { StrictMode, useOptimistic, useState, startTransition, useEffect } from 'react'
import { createRoot } from 'react-dom/client'
const wait = (ms) => new Promise((r) => setTimeout(r, ms))
function App() {
  const [items, setItems] = useState([{ id: 1, text: 'Wedge clay' }])
  const [shown, addShown] = useOptimistic(items, (s, t) => [...s, { id: 'new', text: t }])
  const [text, setText] = useState('')
  const [round, setRound] = useState(0)
  useEffect(() => { const t = setInterval(() => setRound((r) => r + 1), 400); return () => clearInterval(t) }, [])
  const add = (e) => { e.preventDefault(); const t = text; setText(''); startTransition(async () => { addShown(t); await wait(600); startTransition(() => setItems((s) => [...s, { id: s.length + 1, text: t }])); yard.add('added', t) }) }
  return (
    <><h1>To do</h1><form onSubmit={add}><input aria-label="New task" value={text} onChange={(e) => setText(e.target.value)} /> <button>Add task</button></form>
      <ul key={round}>{shown.map((i) => <li key={i.id}>{i.text} <button onClick={() => { yard.add('done', i.text); setItems((s) => s.filter((x) => x.id !== i.id)) }}>Done</button></li>)}</ul></>
  )
}
createRoot(document.getElementById('root')).render(<StrictMode><App /></StrictMode>)
