import { useVirtualizer } from '@tanstack/react-virtual'
import { useRef } from 'react'
import { createRoot } from 'react-dom/client'
function App() {
  const box = useRef(null)
  const v = useVirtualizer({ count: 10000, getScrollElement: () => box.current, estimateSize: () => 36 })
  return (
    <><h1>All pieces</h1><div ref={box} style={{ height: 400, width: 420, overflow: 'auto', border: '1px solid' }} data-scroll><div style={{ height: v.getTotalSize(), position: 'relative' }}>
      {v.getVirtualItems().map((i) => <div key={i.key} style={{ position: 'absolute', top: 0, left: 0, width: '100%', height: 36, transform: `translateY(${i.start}px)` }}><span>Piece {i.index + 1}</span> <button onClick={() => yard.add('taken', i.index + 1)}>Take</button></div>)}
    </div></div></>
  )
}
createRoot(document.getElementById('root')).render(<App />)
