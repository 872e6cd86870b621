<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import ImpactButton from '@/features/impact/ImpactButton.vue'
import VisitButton from '@/features/visits/VisitButton.vue'
import { api, ask, mayChange } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'
import { usePageList } from '@/shared/lists'

import EqualElements from './EqualElements.vue'
import ElementEditor from './ElementEditor.vue'
import LitPicture from './LitPicture.vue'
import TakeIn from './TakeIn.vue'
import WriteFrom from './WriteFrom.vue'

/** The pages of the application under test, each with its picture and its elements. */
const route = useRoute()
const router = useRouter()
const words = ref('')
const query = useDebounce(words, 200)
const unused = ref(false)
const pages = usePageList(query, unused)
const lit = ref('')
const taking = ref(false)
const writing = ref(false)

const page = computed(() => (route.query.page === undefined ? null : String(route.query.page)))
const element = computed(() => String(route.query.element ?? ''))
const listed = pages.rows
const filtered = computed(() => Boolean(query.value.trim() || unused.value))
/** The title of the page that is looked at; one that a link leads to may stand further down. */
const title = computed(() => {
  const stays = !filtered.value || listed.value.some((one) => one.page === page.value)
  return page.value !== null && stays ? page.value : listed.value[0]?.page
})
const looked = useQuery({
  queryKey: computed(() => ['pages', 'here', title.value, query.value, unused.value]),
  queryFn: () =>
    ask(
      api.GET('/api/pages/elements', {
        params: { query: { page: title.value!, q: query.value, unused: unused.value } },
      }),
    ),
  enabled: computed(() => title.value !== undefined),
  placeholderData: keepPreviousData,
})
const here = computed(() => (title.value === undefined ? undefined : looked.data.value?.page))
const elements = computed(() => looked.data.value?.elements ?? [])
const places = useQuery({
  queryKey: computed(() => ['pages', 'places', here.value?.saved]),
  queryFn: () =>
    ask(api.GET('/api/saved-pages/{id}/places', { params: { path: { id: here.value!.saved! } } })),
  enabled: computed(() => Boolean(here.value?.saved)),
})
const boxOf = computed(() => new Map(places.data.value?.places.map((one) => [one.element, one.box])))
const boxes = computed(() =>
  elements.value.flatMap((one) => (boxOf.value.has(one.id) ? [boxOf.value.get(one.id)!] : [])),
)
const shown = computed(() => elements.value.find((one) => one.id === (lit.value || element.value)))

watch(
  () => here.value?.page,
  () => (taking.value = writing.value = false),
)
const go = (to: { page?: string; element?: string }) =>
  router.replace({ query: { page: here.value?.page, ...to } })

function at(x: number, y: number) {
  const area = (key: string) => {
    const [a = 0, b = 0, width = 0, height = 0] = boxOf.value.get(key) ?? []
    return x >= a && x <= a + width && y >= b && y <= b + height ? width * height : 0
  }
  return elements.value.filter((one) => area(one.id)).sort((one, other) => area(one.id) - area(other.id))[0]
}
</script>

<template>
  <div class="flex h-full flex-col">
    <Trouble :error="pages.error.value" class="m-4" />
    <div v-if="pages.first.value && listed.length === 0 && !filtered" class="page">
      <h1 class="heading mb-4">Pages</h1>
      <Empty title="No page is known yet"
        >Record a test: the pages it goes through, and what it uses on them, are kept here.</Empty
      >
    </div>
    <EqualElements
      v-if="pages.first.value && mayChange()"
      @go="(to, which) => go({ page: to, element: which })"
    />
    <div
      v-if="pages.first.value && (listed.length || filtered)"
      class="grid min-h-0 flex-1 grid-cols-[16rem_minmax(0,1fr)]"
    >
      <nav class="flex min-h-0 flex-col border-r border-line bg-sheet" aria-label="Pages">
        <div class="flex flex-col gap-1.5 border-b border-line p-2">
          <div class="flex items-center justify-between gap-2">
            <h1 class="heading text-xl">Pages</h1>
            <VisitButton class="py-0.5 text-sm" />
          </div>
          <input
            v-model="words"
            class="field"
            type="search"
            placeholder="Search pages and elements"
            aria-label="Search pages and elements"
          />
          <label class="flex items-center gap-1.5 text-sm"
            ><input v-model="unused" type="checkbox" /> only unused elements</label
          >
        </div>
        <ul class="min-h-0 flex-1 overflow-auto">
          <li v-for="one in listed" :key="one.page">
            <button
              class="w-full border-b border-line px-3 py-2 text-left hover:bg-sunk"
              :class="one.page === here?.page && 'bg-sunk font-semibold'"
              :aria-current="one.page === here?.page"
              @click="go({ page: one.page })"
            >
              {{ one.page || '(no title)' }}
              <span class="block text-xs font-normal text-soft"
                >{{ one.elements }} {{ one.elements === 1 ? 'element' : 'elements' }}</span
              >
            </button>
          </li>
          <li v-if="pages.more.value" class="p-2 text-center">
            <button class="button" :disabled="pages.busy.value" @click="pages.next()">Show more</button>
          </li>
        </ul>
        <p v-if="listed.length === 0" class="p-4 text-center text-soft">
          {{ unused ? 'Every element is used.' : 'Nothing has that name.' }}
        </p>
      </nav>
      <div v-if="here && taking && here.saved" class="min-h-0">
        <TakeIn :saved="here.saved" @done="taking = false" />
      </div>
      <div v-else-if="here && writing && here.saved" class="min-h-0">
        <WriteFrom :saved="here.saved" @close="writing = false" />
      </div>
      <div v-else-if="here" class="flex min-h-0 flex-col">
        <div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_19rem]">
          <div class="flex min-h-0 flex-col">
            <div class="flex items-center gap-2 border-b border-line bg-sheet px-3 py-1.5">
              <h2 class="mr-auto truncate font-story text-lg">{{ here.page || '(no title)' }}</h2>
              <ImpactButton v-if="here.page" kind="page" :of="here.page" />
              <template v-if="here.saved && mayChange()">
                <button class="button" @click="writing = true">Write a test from it</button>
                <button class="button" @click="taking = true">Take in from this page</button>
              </template>
            </div>
            <div class="min-h-0 flex-1 overflow-auto bg-sunk p-3">
              <LitPicture
                v-if="here.picture"
                :digest="here.picture"
                :boxes="boxes"
                :lit="(shown && boxOf.get(shown.id)) ?? null"
                :name="shown?.name"
                @point="(x, y) => (lit = at(x, y)?.id ?? '')"
                @press="(x, y) => go({ element: at(x, y)?.id })"
                @leave="lit = ''"
              />
              <Empty v-else title="No picture of this page yet"
                >Take a still of it in the workbench, or run a test that goes there.</Empty
              >
            </div>
          </div>
          <ul class="min-h-0 overflow-auto border-l border-line" aria-label="Elements">
            <li v-for="one in elements" :key="one.id">
              <button
                class="w-full border-b border-line px-3 py-1.5 text-left hover:bg-sunk"
                :class="one.id === element && 'bg-lit-paper'"
                :data-element="one.id"
                @mouseenter="lit = one.id"
                @mouseleave="lit = ''"
                @click="go({ element: one.id })"
              >
                <span class="flex gap-2"
                  ><span class="truncate font-medium">{{ one.name }}</span
                  ><span class="ml-auto shrink-0 text-xs text-soft">{{ one.kind }}</span></span
                >
                <span class="block truncate text-xs text-soft">{{ one.clues.join(' and ') }}</span>
                <span class="block text-xs" :class="one.uses.length ? 'text-soft' : 'text-odd'">{{
                  one.uses.length
                    ? `used by ${one.uses.length} ${one.uses.length === 1 ? 'test' : 'tests'}`
                    : 'not used'
                }}</span>
              </button>
            </li>
            <li v-if="looked.data.value && elements.length === 0" class="p-4 text-center text-soft">
              No element of this page is known yet. Take some in from its picture.
            </li>
          </ul>
        </div>
        <section v-if="element" class="h-64 shrink-0 border-t border-line bg-sheet" aria-label="Element">
          <ElementEditor :id="element" :key="element" @gone="go({ element: undefined })" />
        </section>
      </div>
    </div>
  </div>
</template>
