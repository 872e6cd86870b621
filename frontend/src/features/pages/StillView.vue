<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'

import LitPicture from './LitPicture.vue'

type Node = Shapes['NodeOut']

/** A page as it was: its picture, and the list of all that was recognised, to pick from. */
const props = defineProps<{ saved: number; known?: string[]; before?: number }>()
const picked = defineModel<number[]>('picked', { default: () => [] })

const page = useQuery({
  queryKey: computed(() => ['saved page', props.saved]),
  queryFn: () => ask(api.GET('/api/saved-pages/{id}', { params: { path: { id: props.saved } } })),
  staleTime: Infinity,
})
const earlier = useQuery({
  queryKey: computed(() => ['saved page', props.before ?? 0]),
  queryFn: () => ask(api.GET('/api/saved-pages/{id}', { params: { path: { id: props.before! } } })),
  enabled: computed(() => !!props.before && props.before !== props.saved),
  staleTime: Infinity,
})
/** What a thing is and shows: what has no like in the still before has changed. */
const like = (node: Node) => [node.kind, node.name, node.row, node.column, node.text, node.visible].join('|')
const was = computed(() => earlier.data.value && new Set(earlier.data.value.nodes.map(like)))
const withHidden = ref(false)
const onlyNamed = ref(false)
const onlyChanged = ref(false)
const filters = computed(() => [
  { name: 'with hidden', model: withHidden, there: true },
  { name: 'named', model: onlyNamed, there: true },
  { name: 'changed since the last still', model: onlyChanged, there: !!was.value },
])
const words = ref('')
const kind = ref('')
const lit = ref(0)
const list = ref<HTMLElement | null>(null)

const nodes = computed(
  () =>
    page.data.value?.nodes.filter(
      (node) =>
        (withHidden.value || node.visible) &&
        (!onlyNamed.value || named(node)) &&
        (!onlyChanged.value || !was.value?.has(like(node))),
    ) ?? [],
)
/** Whether people have words for it: not only what it is made of or where it stands. */
const named = (node: Node) => (node.shows.name || node.shows.text || '').length > 0
const kinds = computed(() => {
  const counts = new Map<string, number>()
  for (const node of nodes.value) counts.set(node.kind, (counts.get(node.kind) ?? 0) + 1)
  return [...counts]
})
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase()
  // A kind that is not on this page any more has no button to be let go with: it filters nothing.
  const only = kinds.value.some(([name]) => name === kind.value) ? kind.value : ''
  return nodes.value.filter(
    (node) =>
      (!only || node.kind === only) &&
      (!wanted || `${node.name} ${node.text} ${node.row} ${node.column}`.toLowerCase().includes(wanted)),
  )
})
const rows = useVirtualizer(
  computed(() => ({
    count: shown.value.length,
    getScrollElement: () => list.value,
    estimateSize: () => 44,
    overscan: 8,
  })),
)
const marks = computed(() => {
  const boxes = nodes.value.filter((node) => picked.value.includes(node.node)).map((node) => node.box)
  const one = nodes.value.find((node) => node.node === lit.value)
  return { boxes, lit: one ? one.box : null, name: one?.name ?? '' }
})

watch(
  () => props.saved,
  () => {
    picked.value = []
    lit.value = 0
  },
)

function toggle(node: Node) {
  picked.value = picked.value.includes(node.node)
    ? picked.value.filter((one) => one !== node.node)
    : [...picked.value, node.node]
}

/** The smallest thing of the list that is at a point of the picture. */
function at(x: number, y: number): Node | undefined {
  const under = shown.value.filter(
    ({ box: [a = 0, b = 0, w = 0, h = 0] }) => x >= a && x <= a + w && y >= b && y <= b + h,
  )
  return under.sort((one, other) => one.box[2]! * one.box[3]! - other.box[2]! * other.box[3]!)[0]
}

function onPoint(x: number, y: number) {
  lit.value = at(x, y)?.node ?? 0
}
function onPress(x: number, y: number) {
  const node = at(x, y)
  if (!node) return
  toggle(node)
  rows.value.scrollToIndex(shown.value.indexOf(node))
}
const titleOf = (node: Node) =>
  [
    node.column && `under ${node.column}`,
    node.row && `in the row of ${node.row}`,
    ...node.frames.map((frame) => `in ${frame}`),
  ]
    .filter(Boolean)
    .join(', ')
defineExpose({ nodes })
</script>

<template>
  <div
    class="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_21rem] max-[1150px]:grid-cols-[minmax(0,1fr)_17rem]"
    data-role="still"
  >
    <div class="min-h-0 overflow-auto bg-sunk p-2" data-role="picture-of-still">
      <Trouble :error="page.error.value" />
      <LitPicture
        v-if="page.data.value?.picture"
        :digest="page.data.value.picture"
        :boxes="marks.boxes"
        :lit="marks.lit"
        :name="marks.name"
        @point="onPoint"
        @press="onPress"
        @leave="lit = 0"
      />
    </div>
    <div class="flex min-h-0 flex-col border-l border-line bg-paper">
      <div class="flex flex-col gap-1.5 border-b border-line p-2">
        <input
          v-model="words"
          class="field"
          type="search"
          placeholder="Search this page"
          aria-label="Search this page"
        />
        <div class="flex flex-wrap gap-1" role="group" aria-label="Kinds">
          <button
            v-for="[name, count] in kinds"
            :key="name"
            class="chip"
            :class="kind === name && 'border-ink font-semibold'"
            :aria-pressed="kind === name"
            @click="kind = kind === name ? '' : name"
          >
            {{ name }} <span class="text-soft">{{ count }}</span>
          </button>
        </div>
        <div class="flex flex-wrap gap-x-3 text-xs" role="group" aria-label="Which things">
          <template v-for="one in filters" :key="one.name">
            <label v-if="one.there" class="flex items-center gap-1"
              ><input v-model="one.model.value" type="checkbox" /> {{ one.name }}</label
            >
          </template>
        </div>
      </div>
      <div
        ref="list"
        class="min-h-0 flex-1 overflow-auto"
        role="listbox"
        aria-label="On this page"
        aria-multiselectable="true"
      >
        <div class="relative" :style="{ height: `${rows.getTotalSize()}px` }">
          <div
            v-for="row in rows.getVirtualItems()"
            :key="shown[row.index]!.node"
            class="absolute inset-x-0 flex cursor-pointer items-center gap-2 border-b border-line px-2 hover:bg-sunk"
            :class="lit === shown[row.index]!.node && 'bg-lit-paper'"
            :style="{ top: `${row.start}px`, height: '44px' }"
            role="option"
            tabindex="0"
            :aria-selected="picked.includes(shown[row.index]!.node)"
            :data-node="shown[row.index]!.node"
            @mouseenter="lit = shown[row.index]!.node"
            @mouseleave="lit = 0"
            @focus="lit = shown[row.index]!.node"
            @click="toggle(shown[row.index]!)"
            @keydown.space.prevent="toggle(shown[row.index]!)"
          >
            <input
              type="checkbox"
              tabindex="-1"
              :checked="picked.includes(shown[row.index]!.node)"
              aria-hidden="true"
            />
            <span class="min-w-0 flex-1">
              <span class="block truncate">{{ shown[row.index]!.name }}</span>
              <span class="block truncate text-xs text-soft">{{
                titleOf(shown[row.index]!) ||
                (shown[row.index]!.text === shown[row.index]!.name ? '' : shown[row.index]!.text)
              }}</span>
            </span>
            <span class="shrink-0 text-xs text-soft">{{ shown[row.index]!.kind }}</span>
          </div>
        </div>
        <p v-if="page.data.value && shown.length === 0" class="p-4 text-center text-soft">
          Nothing on this page is like that.
        </p>
      </div>
      <div class="border-t border-line p-2"><slot /></div>
    </div>
  </div>
</template>
