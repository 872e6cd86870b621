import { AllCommunityModule, ModuleRegistry } from 'ag-grid-community'
import { AgGridReact } from 'ag-grid-react'
import { createRoot } from 'react-dom/client'
ModuleRegistry.registerModules([AllCommunityModule])
const names = ['Tea caddy', 'Moon jar', 'Bud vase', 'Plate', 'Jug', 'Cup', 'Bowl', 'Tile']
const rows = Array.from({ length: 2000 }, (_, i) => ({ piece: `${names[i % 8]} ${i + 1}`, count: (i * 7) % 23, clay: ['Raku', 'Grog', 'Bone'][i % 3] }))
createRoot(document.getElementById('root')).render(
  <><h1>Store</h1><div style={{ height: 420, width: 760 }}>
    <AgGridReact rowData={rows} columnDefs={[{ field: 'piece', filter: true, floatingFilter: true, width: 240 }, { field: 'count', editable: true, width: 120 }, { field: 'clay', width: 140 }, { headerName: 'Send', width: 120, cellRenderer: (p) => <button onClick={() => yard.add('sent', p.data.piece)}>Send</button> }]}
      onCellValueChanged={(e) => yard.set(`count of ${e.data.piece}`, String(e.newValue))}
      onSortChanged={(e) => yard.set('sort', e.api.getColumnState().filter((c) => c.sort).map((c) => c.colId + c.sort).join())}
      onFilterChanged={(e) => yard.set('shown', e.api.getDisplayedRowCount())} />
  </div></>,
)
