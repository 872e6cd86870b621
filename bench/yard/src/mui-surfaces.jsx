import { Button, Dialog, DialogActions, DialogContent, DialogTitle, IconButton, Menu, MenuItem, Slider, Switch, Tab, Tabs, TextField, Tooltip, Drawer, Accordion, AccordionSummary, AccordionDetails, Rating } from '@mui/material'
import { useState } from 'react'
import { createRoot } from 'react-dom/client'
function App() {
  const [open, setOpen] = useState(false)
  const [at, setAt] = useState(null)
  const [tab, setTab] = useState(0)
  const [name, setName] = useState('')
  const [drawer, setDrawer] = useState(false)
  return (
    <>
      <h1>Studio</h1>
      <Button variant="contained" onClick={() => setOpen(true)}>New shelf</Button>
      <Tooltip title="More things"><IconButton onClick={(e) => setAt(e.currentTarget)}><svg width="20" height="20"><circle cx="10" cy="10" r="6" /></svg></IconButton></Tooltip>
      <Menu anchorEl={at} open={!!at} onClose={() => setAt(null)}>{['Copy', 'Archive'].map((t) => <MenuItem key={t} onClick={() => { yard.add('menu', t); setAt(null) }}>{t}</MenuItem>)}</Menu>
      <Dialog open={open} onClose={() => setOpen(false)}><DialogTitle>New shelf</DialogTitle><DialogContent><TextField label="Shelf name" variant="standard" value={name} onChange={(e) => setName(e.target.value)} /></DialogContent><DialogActions><Button onClick={() => setOpen(false)}>Cancel</Button><Button onClick={() => { yard.add('shelves', name); setOpen(false) }}>Add</Button></DialogActions></Dialog>
      <div className="row" style={{ width: 300, padding: 20 }}><Slider aria-label="Humidity" defaultValue={30} step={5} onChangeCommitted={(_, v) => yard.set('humidity', v)} /></div>
      <Switch slotProps={{ input: { 'aria-label': 'Night firing' } }} onChange={(e) => yard.set('night', e.target.checked)} />
      <Rating name="stars" onChange={(_, v) => yard.set('stars', v)} />
      <Tabs value={tab} onChange={(_, v) => { setTab(v); yard.set('tab', v) }}><Tab label="Wheel" /><Tab label="Kiln" /></Tabs>
      <Accordion><AccordionSummary>Opening hours</AccordionSummary><AccordionDetails><Button onClick={() => yard.count('hours')}>Ask for hours</Button></AccordionDetails></Accordion>
      <Button onClick={() => setDrawer(true)}>Open drawer</Button>
      <Drawer anchor="right" open={drawer} onClose={() => setDrawer(false)}><div style={{ width: 240, padding: 20 }}><Button onClick={() => { yard.count('drawer'); setDrawer(false) }}>Take ribs</Button></div></Drawer>
    </>
  )
}
createRoot(document.getElementById('root')).render(<App />)
