import * as H from '@headlessui/vue'
import { createApp } from 'vue/dist/vue.esm-bundler.js'
createApp({
  components: { ...H },
  data: () => ({ clay: 'Raku', who: '', q: '', people: ['Mara Wheel', 'Ben Slip', 'Ines Kiln', 'Otto Clay'], on: false, open: false }),
  computed: { found() { return this.people.filter((p) => p.toLowerCase().includes(this.q.toLowerCase())) } },
  watch: { clay: (v) => yard.set('clay', v), who: (v) => yard.set('who', v), on: (v) => yard.set('on', v) },
  methods: { menu: (t) => yard.add('menu', t), note: (t) => yard.count(t) },
  template: `<h1>Bench</h1>
    <div class=row><Listbox v-model="clay"><ListboxLabel>Clay</ListboxLabel> <ListboxButton>{{ clay }}</ListboxButton><ListboxOptions style="position:absolute;background:#fff;z-index:3"><ListboxOption v-for="c in ['Raku','Porcelain','Grog']" :key="c" :value="c" v-slot="{ active }"><span :style="{ background: active ? '#fed' : '' }">{{ c }}</span></ListboxOption></ListboxOptions></Listbox></div>
    <div class=row><Combobox v-model="who"><ComboboxLabel>Helper</ComboboxLabel> <ComboboxInput @change="q = $event.target.value" /><ComboboxButton>▾</ComboboxButton><ComboboxOptions style="position:absolute;background:#fff;z-index:3"><ComboboxOption v-for="p in found" :key="p" :value="p">{{ p }}</ComboboxOption></ComboboxOptions></Combobox></div>
    <div class=row><Popover><PopoverButton>Notes</PopoverButton><PopoverPanel style="position:absolute;background:#fff;z-index:3;top:300px"><button @click="note('clean')">Clean the bench</button></PopoverPanel></Popover> <Menu><MenuButton>Actions</MenuButton><MenuItems style="position:absolute;background:#fff;z-index:3"><MenuItem><button @click="menu('copy')">Copy bench</button></MenuItem><MenuItem><button @click="menu('move')">Move bench</button></MenuItem></MenuItems></Menu> <Switch v-model="on">Light</Switch></div>
    <button @click="open = true">Ask</button><Dialog :open="open" @close="open = false"><DialogPanel><DialogTitle>Sure?</DialogTitle><button @click="note('sure'); open = false">Quite sure</button></DialogPanel></Dialog>`,
}).mount('#root')
