import { Checkbox, Dialog, DropdownMenu, Popover, Select, Slider, Switch, Tabs, ToggleGroup } from 'radix-ui'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
const float = { background: '#fff', border: '1px solid #999', padding: 8, zIndex: 9 }
const App = () => (
  <>
    <h1>Counter</h1>
    <div className="row"><span id="sz">Size</span> <Select.Root onValueChange={(v) => yard.set('size', v)}><Select.Trigger aria-labelledby="sz"><Select.Value placeholder="Pick a size" /></Select.Trigger><Select.Portal><Select.Content style={float}><Select.Viewport>{['small', 'medium', 'large'].map((v) => <Select.Item key={v} value={v}><Select.ItemText>{v}</Select.ItemText></Select.Item>)}</Select.Viewport></Select.Content></Select.Portal></Select.Root></div>
    <DropdownMenu.Root><DropdownMenu.Trigger>Options</DropdownMenu.Trigger><DropdownMenu.Portal><DropdownMenu.Content style={float}><DropdownMenu.Item onSelect={() => yard.add('menu', 'edit')}>Edit</DropdownMenu.Item><DropdownMenu.Sub><DropdownMenu.SubTrigger>Share</DropdownMenu.SubTrigger><DropdownMenu.SubContent style={float}><DropdownMenu.Item onSelect={() => yard.add('menu', 'mail')}>By mail</DropdownMenu.Item></DropdownMenu.SubContent></DropdownMenu.Sub></DropdownMenu.Content></DropdownMenu.Portal></DropdownMenu.Root>
    <Popover.Root><Popover.Trigger>Filter</Popover.Trigger><Popover.Portal><Popover.Content style={float}><label>Piece <input onChange={(e) => yard.set('filter', e.target.value)} /></label> <Popover.Close>Done</Popover.Close></Popover.Content></Popover.Portal></Popover.Root>
    <div className="row"><label><Checkbox.Root style={{ width: 20, height: 20 }} onCheckedChange={(v) => yard.set('gift', v)}><Checkbox.Indicator>✓</Checkbox.Indicator></Checkbox.Root> Gift</label> <label>Night <Switch.Root style={{ width: 40, height: 20 }} onCheckedChange={(v) => yard.set('night', v)}><Switch.Thumb /></Switch.Root></label></div>
    <Slider.Root defaultValue={[20]} onValueCommit={(v) => yard.set('heat', v[0])} style={{ position: 'relative', display: 'flex', width: 300, height: 20, alignItems: 'center', background: '#ddd' }}><Slider.Track style={{ flexGrow: 1, height: 4, background: '#999' }} /><Slider.Thumb aria-label="Heat" style={{ display: 'block', width: 20, height: 20, background: '#a63' }} /></Slider.Root>
    <ToggleGroup.Root type="single" onValueChange={(v) => yard.set('align', v)}><ToggleGroup.Item value="left">Left</ToggleGroup.Item><ToggleGroup.Item value="right">Right</ToggleGroup.Item></ToggleGroup.Root>
    <Tabs.Root defaultValue="a" onValueChange={(v) => yard.set('tab', v)}><Tabs.List><Tabs.Trigger value="a">Orders</Tabs.Trigger><Tabs.Trigger value="b">Returns</Tabs.Trigger></Tabs.List><Tabs.Content value="b">No returns</Tabs.Content></Tabs.Root>
    <Dialog.Root><Dialog.Trigger>Close day</Dialog.Trigger><Dialog.Portal><Dialog.Overlay /><Dialog.Content style={{ ...float, position: 'fixed', top: 200, left: 300 }}><Dialog.Title>Close the day?</Dialog.Title><Dialog.Description>All sales are kept.</Dialog.Description><Dialog.Close onClick={() => yard.count('closed')}>Close it</Dialog.Close></Dialog.Content></Dialog.Portal></Dialog.Root>
  </>
)
createRoot(document.getElementById('root')).render(<StrictMode><App /></StrictMode>)
