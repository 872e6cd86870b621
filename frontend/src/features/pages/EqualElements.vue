<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import { ago } from '@/shared/times'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

import { keptClues } from './merging'
import { takeBack } from './undoing'

/** Elements that are one thing, with what shows it, to be merged. */
const emit = defineEmits<{ go: [page: string, element: string] }>()
const queries = useQueryClient()
const query = useQuery({ queryKey: ['pages', 'equal'], queryFn: () => ask(api.GET('/api/elements-equal')) })
const equal = computed(() => query.data.value?.equal ?? [])
const open = ref(false)

/** Merge elements into one, one after the other: each is held against what came of the one before. */
const merging = useAct(
  async ({ others, into }: { others: string[]; into: string }) => {
    for (const key of others) {
      const merged = await ask(
        api.POST('/api/elements/{key}/merge', { params: { path: { key } }, body: { into } }),
      )
      say(`Merged. ${keptClues(merged)}`, () => void takeBack(queries, merged.act))
    }
  },
  { stale: [['pages'], ['test']] },
)
const { busy } = merging
const merge = (others: string[], into: string) => merging.act({ others, into })

const idsBeside = (one: string, all: { id: string }[]) => all.map(({ id }) => id).filter((id) => id !== one)
</script>

<template>
  <div v-if="equal.length" class="border-b border-line bg-sheet px-3 py-1.5 text-sm" data-role="equal">
    <p class="flex items-center gap-2">
      {{ equal.length === 1 ? 'One thing is known' : `${equal.length} things are known` }} as several
      elements.
      <button class="button-bare ml-auto" :aria-expanded="open" @click="open = !open">
        {{ open ? 'Fold' : 'See them' }}
      </button>
    </p>
    <ul v-if="open" class="max-h-60 overflow-auto">
      <li
        v-for="one in equal"
        :key="`${one.saved} ${one.elements[0]!.id}`"
        class="border-t border-line py-1.5"
      >
        <p class="text-soft">
          All of these find “{{ one.thing }}”, and nothing else, on {{ one.page || '(no title)' }} as saved
          {{ ago(one.at) }}.
        </p>
        <p v-for="it in one.elements" :key="it.id" class="flex items-center gap-2 py-0.5">
          <button class="truncate font-medium hover:underline" @click="emit('go', one.page, it.id)">
            {{ it.name }}
          </button>
          <span class="min-w-0 flex-1 truncate text-xs text-soft">{{ it.clues.join(' and ') }}</span>
          <span class="shrink-0 text-xs text-soft">{{
            it.uses.length ? `used by ${it.uses.length}` : 'not used'
          }}</span>
          <button
            class="button shrink-0"
            :title="`The others become “${it.name}”; the better clues are kept`"
            :disabled="busy"
            @click="merge(idsBeside(it.id, one.elements), it.id)"
          >
            Merge into this
          </button>
        </p>
      </li>
    </ul>
  </div>
</template>
