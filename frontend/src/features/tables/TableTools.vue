<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { ChevronDown, FileSpreadsheet, Plus, RefreshCw, Undo2 } from '@lucide/vue'
import { computed, ref } from 'vue'

import type { Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import Modal from '@/shared/Modal.vue'
import PickOne from '@/shared/PickOne.vue'
import { beside } from '@/shared/beside'
import { useTableList } from '@/shared/lists'
import type { Named } from '@/shared/lists'
import { say } from '@/shared/notes'

import DesignRows from './DesignRows.vue'
import TakeTable from './TakeTable.vue'
import type { Table } from './useTable'

/** What can be done with the rows as a whole. */
const props = defineProps<{
  test: Test
  owner: Test
  edits: Edits
  ownerEdits: Edits
  table: Table
  fixed: boolean
  ticked: number
  left: number
}>()
const words = defineModel<string>('words', { required: true })
defineEmits<{ addRow: []; fillDown: []; removeTicked: []; check: [] }>()

const fresh = ref('')
const designing = ref(false)
const taking = ref<'' | 'file' | 'again'>('')
const tables = useTableList(ref(''))
/** Tables that the menu itself offers; more are chosen by their names. */
const OFFERED = 6
const others = computed(() => tables.rows.value.filter((one) => one.id !== props.test.shared?.id))
/** Whether another table is chosen by its name, where there are more than the menu holds. */
const choosing = ref(false)
const another = ref<Named | null>(null)

async function addColumn() {
  if (fresh.value.trim() && (await props.table.addColumn(fresh.value.trim()))) fresh.value = ''
}
async function share() {
  const name = `Rows of ${props.test.name}`
  if (await props.edits.share(name)) say(`“${name}” is a table now that other tests can use, under Data.`)
}
async function useShared(id: number | null, name: string) {
  if (await props.edits.useShared(id))
    say(
      id ? `The rows come from “${name}” now.` : 'The test has a copy of the rows for itself.',
      () => void props.edits.undo(),
    )
}
async function useAnother() {
  if (another.value) await useShared(another.value.id, another.value.name)
  choosing.value = false
}
/** The forms in which rows are given out, and where each is. */
const EXPORTS = [
  ['CSV', 'rows.csv'],
  ['CSV, formulas escaped', 'rows.csv?formulas=escaped'],
  ['XLSX', 'rows.xlsx'],
  ['ODS', 'rows.ods'],
] as const
const ESCAPED = 'What begins with = + - @ gets an apostrophe, so that a spreadsheet program computes nothing'
</script>

<template>
  <div class="flex items-center gap-1.5 px-3 py-1.5 text-sm">
    <DesignRows v-model:open="designing" :test="test" :edits="edits" />
    <TakeTable
      v-if="taking"
      :test="owner"
      :edits="ownerEdits"
      :source="taking === 'again' ? table.source.value : {}"
      @close="taking = ''"
    />
    <template v-if="!fixed">
      <button
        class="button-bare"
        :disabled="!ownerEdits.toUndo.value"
        aria-label="Undo in the table"
        title="Undo the last change"
        @click="ownerEdits.undo()"
      >
        <Undo2 :size="15" />
      </button>
      <button class="button" :disabled="test.columns.length === 0" @click="$emit('addRow')">
        <Plus :size="14" /> Add a row
      </button>
      <form class="flex gap-1" @submit.prevent="addColumn">
        <input
          v-model="fresh"
          class="field w-28 max-[1150px]:w-20"
          placeholder="new column"
          aria-label="Name of the new column"
        />
        <button class="button" :disabled="!fresh.trim()">Add</button>
      </form>
      <button
        class="button"
        title="The value of the first chosen cell goes into those below; choose cells with Shift"
        :disabled="left < 2"
        @click="$emit('fillDown')"
      >
        Fill down
      </button>
      <button
        v-if="test.kind !== 'table'"
        class="button"
        :disabled="test.columns.length === 0"
        @click="designing = true"
      >
        Design variations
      </button>
      <button
        v-if="test.kind !== 'table'"
        class="button shrink-0"
        :disabled="left === 0"
        title="Hold every value against the options and limits of its field"
        @click="$emit('check')"
      >
        Check the data
      </button>
      <button v-if="ticked" class="button" @click="$emit('removeTicked')">Delete {{ ticked }} ticked</button>
    </template>
    <input
      v-model="words"
      class="field ml-auto w-32 max-[1150px]:w-24"
      type="search"
      placeholder="Filter rows"
      aria-label="Filter rows"
    />
    <span class="whitespace-nowrap text-soft" :class="!words && 'max-[1150px]:hidden'" data-role="row-count"
      >{{ words ? `${left} of ${owner.row_count}` : owner.row_count }}
      {{ owner.row_count === 1 ? 'row' : 'rows' }}</span
    >
    <RouterLink
      v-if="test.shared"
      :to="`/data/${test.shared.id}`"
      class="chip max-w-40 truncate hover:underline"
      data-role="shared"
      :title="`Rows shared as “${test.shared.name}”`"
      >{{ test.shared.name }}</RouterLink
    >
    <Menu as="div" class="relative">
      <MenuButton class="button" title="Tables in and out" data-role="table-menu">
        <FileSpreadsheet :size="14" /> Table <ChevronDown :size="13" />
      </MenuButton>
      <MenuItems class="floating fixed w-64 p-1" @vue:mounted="beside">
        <template v-if="!fixed">
          <MenuItem v-slot="{ active }">
            <button
              class="w-full rounded px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="taking = 'file'"
            >
              Take in a spreadsheet…
            </button>
          </MenuItem>
          <MenuItem v-if="table.source.value.name" v-slot="{ active }">
            <button
              class="flex w-full items-center gap-1 rounded px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="taking = 'again'"
            >
              <RefreshCw :size="13" /> Refresh from {{ table.source.value.name }}…
            </button>
          </MenuItem>
          <MenuItem v-if="test.kind !== 'table'" v-slot="{ active }">
            <button
              class="w-full rounded px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="$emit('check')"
            >
              Check the data
            </button>
          </MenuItem>
        </template>
        <MenuItem v-for="[form, file] in EXPORTS" :key="file" v-slot="{ active }">
          <a
            class="block rounded px-2 py-1"
            :class="active && 'bg-sunk'"
            :href="`/api/tests/${owner.id}/${file}`"
            :title="file.includes('escaped') ? ESCAPED : undefined"
            download
            >Export {{ form }}</a
          >
        </MenuItem>
        <template v-if="!fixed && test.kind !== 'table'">
          <MenuItem v-if="test.shared" v-slot="{ active }">
            <button
              class="w-full rounded border-t border-line px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="useShared(null, '')"
            >
              Have a copy for this test alone
            </button>
          </MenuItem>
          <MenuItem v-else v-slot="{ active }">
            <button
              class="w-full rounded border-t border-line px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="share"
            >
              Share these rows with other tests
            </button>
          </MenuItem>
          <MenuItem v-for="one in others.slice(0, OFFERED)" :key="one.id" v-slot="{ active }">
            <button
              class="w-full truncate rounded px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="useShared(one.id, one.name)"
            >
              Use the rows of “{{ one.name }}”
            </button>
          </MenuItem>
          <MenuItem v-if="others.length > OFFERED" v-slot="{ active }">
            <button
              class="w-full rounded border-t border-line px-2 py-1 text-left"
              :class="active && 'bg-sunk'"
              @click="choosing = true"
            >
              Use the rows of another table…
            </button>
          </MenuItem>
        </template>
      </MenuItems>
    </Menu>
    <Modal v-model:open="choosing" title="Use the rows of another table">
      <form class="flex flex-col gap-3" @submit.prevent="useAnother">
        <PickOne v-model="another" :list="useTableList" label="Table" none="" />
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="choosing = false">Cancel</button>
          <button class="button button-main" :disabled="!another">Use its rows</button>
        </div>
      </form>
    </Modal>
  </div>
</template>
