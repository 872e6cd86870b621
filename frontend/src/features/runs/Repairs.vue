<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import LitPicture from '@/features/pages/LitPicture.vue'
import { takeBack } from '@/features/pages/undoing'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** What an element that was not found may be now; nothing is changed before a person accepts. */
const props = defineProps<{ result: number }>()
const queries = useQueryClient()
const query = useQuery({
  queryKey: computed(() => ['repairs', props.result]),
  queryFn: () => ask(api.GET('/api/results/{id}/repairs', { params: { path: { id: props.result } } })),
})
const chosen = ref(0)
const repairs = computed(() => query.data.value)
const proposal = computed(() => repairs.value?.proposals[chosen.value])
const sides = computed(() => [
  {
    words: 'Then',
    digest: repairs.value?.before ?? '',
    box: repairs.value?.before_box ?? null,
    name: repairs.value?.element?.name,
  },
  {
    words: 'Now',
    digest: repairs.value?.picture ?? '',
    box: proposal.value?.box ?? null,
    name: proposal.value?.name,
  },
])
const evidence = computed((): [string, string[]][] => [
  ['Agrees', proposal.value?.agrees ?? []],
  ['Differs', proposal.value?.differs ?? []],
])
const accepted = ref(false)

interface Accepted {
  id: string
  name: string
  saved: number
  node: number
}
const repairing = useAct(
  async ({ id, saved, node }: Accepted) => {
    const path = { params: { path: { key: id } } }
    const now = await ask(api.GET('/api/elements/{key}', path))
    const body = { saved, node, base: now.version }
    return ask(api.POST('/api/elements/{key}/repair', { ...path, body }))
  },
  {
    stale: [['pages'], ['element'], ['test']],
    done: (touched, { name }) => {
      accepted.value = true
      const tests = touched.tests.map((test) => `“${test.name}”`).join(', ')
      say(`“${name}” is repaired in ${tests || 'no test'}.`, () => {
        accepted.value = false
        void takeBack(queries, touched.act)
      })
    },
  },
)
function accept() {
  const { element, saved } = repairs.value ?? {}
  if (!element || !saved || !proposal.value) return
  void repairing.act({ id: element.id, name: element.name, saved, node: proposal.value.node })
}
</script>

<template>
  <section v-if="repairs?.element" class="panel px-3 py-2" aria-label="Repair">
    <h3 class="font-semibold">What “{{ repairs.element.name }}” may be now</h3>
    <p v-if="repairs.proposals.length === 0" class="text-soft">
      Nothing on the page was like it. It may be gone: look at the picture.
    </p>
    <template v-else>
      <div class="my-2 flex flex-wrap gap-1.5" role="radiogroup" aria-label="Proposals">
        <button
          v-for="(one, place) in repairs.proposals"
          :key="one.node"
          role="radio"
          class="button"
          :class="place === chosen && 'border-ink bg-lit-paper'"
          :aria-checked="place === chosen"
          data-role="proposal"
          @click="chosen = place"
        >
          {{ one.name }}
          <span class="text-soft"
            >{{ Math.floor(one.score * 100) }} % {{ one.high ? 'likely' : 'look closely' }}</span
          >
        </button>
      </div>
      <div v-if="proposal" class="grid grid-cols-2 gap-3 text-sm">
        <div v-for="side in sides" :key="side.words">
          <p class="text-xs text-soft">{{ side.words }}</p>
          <LitPicture
            v-if="side.digest"
            :digest="side.digest"
            :boxes="[]"
            :lit="side.box"
            :name="side.name"
          />
          <p v-else class="text-soft">No picture was kept.</p>
        </div>
        <div v-for="[heading, lines] in evidence" :key="heading">
          <p class="text-xs text-soft">{{ heading }}</p>
          <ul>
            <li v-for="words in lines" :key="words" class="wrap-anywhere">{{ words }}</li>
          </ul>
        </div>
      </div>
      <p v-if="accepted" class="mt-2 text-good">Accepted. Run the test again to see that it works.</p>
      <div v-else-if="mayChange()" class="mt-2 flex items-center gap-3">
        <span class="text-sm text-soft"
          >Changes it in {{ repairs.element.uses.length }}
          {{ repairs.element.uses.length === 1 ? 'test' : 'tests' }}.</span
        >
        <button class="button button-main ml-auto" data-role="accept-repair" @click="accept">
          Accept the repair
        </button>
      </div>
    </template>
  </section>
</template>
