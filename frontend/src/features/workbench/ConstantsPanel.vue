<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import { complain } from '@/shared/notes'

import type { Edits } from '@/features/editing/useEdits'

type Constant = Test['constants'][number]

/** Every value that is the same in every row, where it stands, and what it could be instead. */
const props = defineProps<{ test: Test; catalogue: Catalogue; edits: Edits; fixed: boolean }>()
defineEmits<{ choose: [step: string] }>()

const words = ref('')
const open = ref('')
const places = ref<string[]>([])
const source = ref('row')
const name = ref('')
const made = ref('')

const shown = computed(() =>
  props.test.constants.filter((one) => one.value.toLowerCase().includes(words.value.trim().toLowerCase())),
)
const known = computed(() => props.test.names[source.value] ?? [])
const sources = computed(() => [
  ...props.catalogue.sources
    .filter((one) => one.offered && ['', props.test.kind].includes(one.within))
    .map((one) => ({ key: one.name, name: one.offered })),
  { key: 'made', name: 'a made-up value' },
])
const spot = (use: Constant['uses'][number]) => `${use.step} ${use.input}`

function begin(one: Constant) {
  open.value = open.value === one.value ? '' : one.value
  places.value = one.uses.map(spot)
  source.value = 'row'
  name.value = one.uses[0]!.proposed
  made.value = /^\d+$/.test(one.value) ? 'integer(1, 20)' : 'text("??-####")'
}

async function replace(one: Constant) {
  const chosen = one.uses.filter((use) => places.value.includes(spot(use)))
  if (!chosen.length) {
    complain(new Error('Tick where the value is to be replaced.'))
    return
  }
  const by =
    source.value === 'made' ? { template: `\${${made.value}}` } : { source: source.value, name: name.value }
  const where = chosen.map(({ step, input }) => ({ step, input }))
  const done = await props.edits.edit({ do: 'replace constants', places: where, ...by })
  if (done) open.value = ''
}
</script>

<template>
  <div class="flex h-full min-h-0 flex-col" data-role="constants">
    <div class="flex items-center gap-3 px-3 py-1.5 text-sm">
      <input
        v-model="words"
        class="field w-56"
        type="search"
        placeholder="Search values"
        aria-label="Search values"
      />
      <span class="text-soft"
        >Values that are the same in every row. Replace one by what differs: then the test is driven by
        data.</span
      >
    </div>
    <ul class="min-h-0 flex-1 overflow-auto border-t border-line text-sm">
      <li v-for="one in shown" :key="one.value" class="border-b border-line px-3 py-1">
        <div class="flex items-baseline gap-3">
          <span class="max-w-64 truncate font-story" :title="one.value">“{{ one.value }}”</span>
          <span class="min-w-0 flex-1 truncate text-soft">
            <template v-if="one.uses.length > 1">{{ one.uses.length }} places: </template>
            <button
              v-for="use in one.uses.slice(0, 3)"
              :key="spot(use)"
              class="mr-2 hover:text-ink hover:underline"
              @click="$emit('choose', use.step)"
            >
              {{ use.sentence }}
            </button>
          </span>
          <button v-if="!fixed" class="button" :aria-expanded="open === one.value" @click="begin(one)">
            Replace “{{ one.value.slice(0, 20) }}”
          </button>
        </div>
        <form v-if="open === one.value" class="my-2 flex flex-col gap-2" @submit.prevent="replace(one)">
          <div v-if="one.uses.length > 1" class="flex flex-wrap gap-x-4 gap-y-1">
            <label v-for="use in one.uses" :key="spot(use)" class="flex items-center gap-1"
              ><input v-model="places" type="checkbox" :value="spot(use)" /> {{ use.sentence }}</label
            >
          </div>
          <div class="flex items-center gap-2">
            by
            <select v-model="source" class="field w-auto" aria-label="Replaced by">
              <option v-for="it in sources" :key="it.key" :value="it.key">{{ it.name }}</option>
            </select>
            <input
              v-if="source === 'made'"
              v-model="made"
              class="field w-64"
              aria-label="How it is made up"
              title='integer(1, 20), number(1, 2), pick("a", "b"), text("??-####"), date("+3d"), uuid()'
            />
            <input
              v-else
              v-model="name"
              class="field w-48"
              :list="`known ${source}`"
              aria-label="Its name"
              required
            />
            <datalist :id="`known ${source}`">
              <option v-for="it in known" :key="it">{{ it }}</option>
            </datalist>
            <button class="button button-main">
              {{ places.length > 1 ? `Replace in ${places.length} places` : 'Replace' }}
            </button>
          </div>
        </form>
      </li>
      <li v-if="shown.length === 0" class="px-4 py-3 text-soft">
        {{
          test.constants.length
            ? 'No value has these letters.'
            : 'No constant is left: every value comes from elsewhere.'
        }}
      </li>
    </ul>
  </div>
</template>
