import Aura from '@primeuix/themes/aura'
import AutoComplete from 'primevue/autocomplete'
import PrimeVue from 'primevue/config'
import MultiSelect from 'primevue/multiselect'
import Select from 'primevue/select'
import InputNumber from 'primevue/inputnumber'
import ToggleSwitch from 'primevue/toggleswitch'
import { createApp } from 'vue/dist/vue.esm-bundler.js'
createApp({
  components: { Select, MultiSelect, AutoComplete, InputNumber, ToggleSwitch },
  data: () => ({ clay: null, tools: [], glaze: '', found: [], count: 1, rush: false, clays: ['Raku', 'Porcelain', 'Grog'], kit: ['Rib', 'Wire', 'Sponge'] }),
  watch: { clay: (v) => yard.set('clay', v), tools: (v) => yard.set('tools', [...v]), glaze: (v) => yard.set('glaze', v), count: (v) => yard.set('count', v), rush: (v) => yard.set('rush', v) },
  methods: { search(e) { setTimeout(() => (this.found = ['Celadon', 'Chun', 'Copper red', 'Shino'].filter((g) => g.toLowerCase().includes(e.query.toLowerCase()))), 100) } },
  template: `<h1>Kit</h1>
    <div class=row><label id=l1>Clay</label> <Select v-model="clay" :options="clays" placeholder="Pick clay" aria-labelledby="l1" style="width:220px" /></div>
    <div class=row><label id=l2>Tools</label> <MultiSelect v-model="tools" :options="kit" placeholder="Pick tools" aria-labelledby="l2" style="width:220px" /></div>
    <div class=row><label for=gl>Glaze</label> <AutoComplete v-model="glaze" :suggestions="found" inputId="gl" @complete="search" /></div>
    <div class=row><label for=nr>Pieces</label> <InputNumber v-model="count" inputId="nr" showButtons :min="0" /> <ToggleSwitch v-model="rush" aria-label="Rush" /></div>`,
}).use(PrimeVue, { theme: { preset: Aura } }).mount('#root')
