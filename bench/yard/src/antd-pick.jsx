import { Button, Cascader, DatePicker, Modal, Popconfirm, Segmented, Select, Switch, TreeSelect } from 'antd'
import dayjs from 'dayjs'
import { useState } from 'react'
import { createRoot } from 'react-dom/client'
function App() {
  const [open, setOpen] = useState(false)
  return (
    <>
      <h1>Plan</h1>
      <div className="row"><label htmlFor="place">Place</label> <Cascader id="place" style={{ width: 260 }} placeholder="Pick a place" options={[{ value: 'house', label: 'Kiln house', children: [{ value: 'a', label: 'Room A' }, { value: 'b', label: 'Room B' }] }, { value: 'yard', label: 'Yard', children: [{ value: 'pit', label: 'Fire pit' }] }]} onChange={(v) => yard.set('place', v.join('/'))} /></div>
      <div className="row"><label htmlFor="topic">Topic</label> <TreeSelect id="topic" style={{ width: 260 }} placeholder="Pick a topic" treeData={[{ value: 'throw', title: 'Throwing', children: [{ value: 'bowls', title: 'Bowls' }, { value: 'jars', title: 'Jars' }] }, { value: 'glaze', title: 'Glazing' }]} onChange={(v) => yard.set('topic', v)} /></div>
      <div className="row"><DatePicker.RangePicker defaultPickerValue={[dayjs('2027-03-01'), dayjs('2027-04-01')]} onChange={(_, v) => yard.set('range', v.join('/'))} /></div>
      <div className="row"><label htmlFor="helper">Helper</label> <Select id="helper" showSearch style={{ width: 260 }} placeholder="Who helps" options={['Mara', 'Ben', 'Ines', 'Otto'].map((v) => ({ value: v, label: v }))} onChange={(v) => yard.set('helper', v)} /></div>
      <Switch aria-label="Open to guests" onChange={(v) => yard.set('guests', v)} />
      <Segmented options={['Day', 'Week', 'Month']} onChange={(v) => yard.set('view', v)} />
      <Popconfirm title="Clear the plan?" onConfirm={() => yard.count('cleared')}><Button>Clear plan</Button></Popconfirm>
      <Button type="primary" onClick={() => setOpen(true)}>Save plan</Button>
      <Modal title="Save plan" open={open} onOk={() => { yard.count('saved'); setOpen(false) }} onCancel={() => setOpen(false)}>Keep this plan for all?</Modal>
    </>
  )
}
createRoot(document.getElementById('root')).render(<App />)
