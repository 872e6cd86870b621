import { DataGrid } from '@mui/x-data-grid'
import { createRoot } from 'react-dom/client'
const names = ['Tea caddy', 'Moon jar', 'Bud vase', 'Plate', 'Jug', 'Cup', 'Bowl', 'Tile']
const rows = Array.from({ length: 60 }, (_, i) => ({ id: i + 1, piece: `${names[i % 8]} ${i + 1}`, count: (i * 7) % 23, clay: ['Raku', 'Grog'][i % 2] }))
createRoot(document.getElementById('root')).render(
  <><h1>Pieces</h1><div style={{ height: 420, width: 760 }}>
    <DataGrid rows={rows} checkboxSelection disableRowSelectionOnClick pageSizeOptions={[10, 25]} initialState={{ pagination: { paginationModel: { pageSize: 10 } } }}
      columns={[{ field: 'piece', headerName: 'Piece', width: 220 }, { field: 'count', headerName: 'Count', type: 'number', editable: true, width: 120 }, { field: 'clay', headerName: 'Clay', width: 140 }]}
      processRowUpdate={(row) => { yard.set(`count of ${row.piece}`, row.count); return row }}
      onRowSelectionModelChange={(m) => yard.set('chosen', [...(m.ids ?? m)].join())}
      onSortModelChange={(m) => yard.set('sort', m.map((x) => x.field + x.sort).join())}
      onPaginationModelChange={(m) => yard.set('page', m.page)} />
  </div></>,
)
