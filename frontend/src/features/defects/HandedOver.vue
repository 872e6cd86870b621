<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'

/** Where a defect is at outside trackers, and handing it over to one. */
const props = defineProps<{ of: number; handed: Shapes['HandedOut'][] }>()
type Handed = Shapes['HandedOut']
const trackers = useQuery({
  queryKey: ['trackers', 'names'],
  queryFn: () => ask(api.GET('/api/trackers/names')),
})
const free = computed(() =>
  (trackers.data.value?.trackers ?? []).filter(
    (one) => !props.handed.some((it) => it.tracker_id === one.id && !it.gone),
  ),
)
const chosen = ref(0)
const tracker = computed(() => free.value.find((one) => one.id === chosen.value) ?? free.value[0])
const stale = () => [['defect', props.of], ['defects']]
const { act: hand, busy: handing } = useAct(
  (to: number) =>
    ask(
      api.POST('/api/defects/{id}/handovers', {
        params: { path: { id: props.of } },
        body: { tracker: to },
      }),
    ),
  { stale },
)
const at = (one: Handed) => ({ params: { path: { id: one.id } } })
const { act: again } = useAct((one: Handed) => ask(api.POST('/api/handovers/{id}/again', at(one))), { stale })
const { act: letGo } = useAct((one: Handed) => ask(api.DELETE('/api/handovers/{id}', at(one))), {
  stale,
  done: (_, one) => say(`${one.tracker} is told no more of it.`),
})
function how(one: Handed): string {
  if (one.gone) return 'it does not know it any more'
  if (!one.key) return one.said ? 'not taken yet' : 'handing over…'
  if (one.given_up) return 'not told of all'
  return one.waits ? 'telling…' : one.state || 'there'
}
</script>

<template>
  <section
    v-if="handed.length || (free.length && mayChange())"
    class="panel p-3 text-sm"
    aria-label="Outside trackers"
    data-role="handed"
  >
    <h2 class="mb-2 font-semibold">Outside trackers</h2>
    <ul class="flex flex-col gap-2">
      <li v-for="one in handed" :key="one.id" :data-tracker="one.tracker">
        <div class="flex flex-wrap items-baseline gap-2">
          <span class="text-soft">{{ one.tracker }}</span>
          <a v-if="one.link" class="underline" :href="one.link" target="_blank" rel="noreferrer">{{
            one.key
          }}</a>
          <b v-else-if="one.key" class="font-semibold">{{ one.key }}</b>
          <span
            :class="{ 'text-odd': one.gone || one.given_up || one.said }"
            :title="one.looked_at ? `asked ${exact(one.looked_at)}` : ''"
            data-role="handed-state"
            >{{ how(one) }}</span
          >
          <span v-if="one.looked_at" class="text-xs text-soft">asked {{ ago(one.looked_at) }}</span>
          <span v-if="mayChange()" class="ml-auto flex gap-1">
            <button v-if="!one.gone" class="button py-0" title="Tell what waits, and ask it" @click="again(one)">
              Ask now
            </button>
            <button class="button py-0" title="Tell it no more of this defect" @click="letGo(one)">
              Let go
            </button>
          </span>
        </div>
        <p v-if="one.said" class="text-xs wrap-anywhere text-odd" role="status">{{ one.said }}</p>
      </li>
    </ul>
    <form
      v-if="tracker && mayChange()"
      class="flex items-center gap-2"
      :class="{ 'mt-2': handed.length }"
      @submit.prevent="hand(tracker.id)"
    >
      <select v-if="free.length > 1" v-model="chosen" class="field w-auto py-0.5" aria-label="Tracker">
        <option v-for="one in free" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
      <button class="button" :disabled="handing" title="With its texts and comments; what changes follows">
        Hand over to {{ free.length > 1 ? 'it' : tracker.name }}
      </button>
    </form>
  </section>
</template>
