import { Autocomplete, FormControl, InputLabel, MenuItem, Select, TextField } from '@mui/material'
import { DatePicker, LocalizationProvider } from '@mui/x-date-pickers'
import { AdapterDayjs } from '@mui/x-date-pickers/AdapterDayjs'
import dayjs from 'dayjs'
import { StrictMode, useState } from 'react'
import { createRoot } from 'react-dom/client'
function App() {
  const [clay, setClay] = useState('')
  return (
    <LocalizationProvider dateAdapter={AdapterDayjs}>
      <h1>Firing request</h1>
      <div className="row"><FormControl sx={{ width: 240 }}><InputLabel id="cl">Clay</InputLabel><Select labelId="cl" label="Clay" value={clay} onChange={(e) => { setClay(e.target.value); yard.set('clay', e.target.value) }}>{['Raku', 'Porcelain', 'Grog'].map((c) => <MenuItem key={c} value={c}>{c}</MenuItem>)}</Select></FormControl></div>
      <div className="row"><Autocomplete sx={{ width: 300 }} options={['Celadon', 'Tenmoku', 'Shino', 'Chun', 'Copper red']} onChange={(_, v) => yard.set('glaze', v)} renderInput={(p) => <TextField {...p} label="Glaze" />} /></div>
      <div className="row"><DatePicker label="Fired on" defaultValue={dayjs('2027-03-10')} onChange={(v) => v?.isValid() && yard.set('fired', v.format('YYYY-MM-DD'))} /></div>
      <div className="row"><TextField label="Piece" onChange={(e) => yard.set('piece', e.target.value)} /></div>
    </LocalizationProvider>
  )
}
createRoot(document.getElementById('root')).render(<StrictMode><App /></StrictMode>)
