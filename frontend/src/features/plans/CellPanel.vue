<script setup lang="ts">
import { X } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { seconds } from '@/shared/times'

/** A cell of the matrix: its rows, each to be opened, or stopped while it is not over. */
const props = defineProps<{
  planRun: number
  row: Shapes['MatrixRow']
  browser: string
  title: string
  going: boolean
}>()
defineEmits<{ close: [] }>()
const query = useQuery({
  queryKey: computed(() => ['plan run', props.planRun, 'cell', props.row.run, props.browser]),
  queryFn: () =>
    ask(
      api.GET('/api/plan-runs/{id}/cell', {
        params: { path: { id: props.planRun }, query: { run: props.row.run, browser: props.browser } },
      }),
    ),
})
type Cast = Shapes['CastOut']
const { act: cancel } = useAct(
  (cast: Cast) => ask(api.POST('/api/casts/{id}/cancel', { params: { path: { id: cast.id } } })),
  { stale: () => [['plan run', props.planRun]] },
)
const { act: cancelAll } = useAct(
  () =>
    ask(
      api.POST('/api/plan-runs/{id}/cell/cancel', {
        params: { path: { id: props.planRun } },
        body: { run: props.row.run, browser: props.browser },
      }),
    ),
  { stale: () => [['plan run', props.planRun]] },
)
const open = (cast: Cast) => ['waiting', 'running'].includes(cast.outcome)
const values = (cast: Cast) => Object.values(cast.values).filter(Boolean).join(' · ')
</script>

<template>
  <aside class="panel flex min-h-0 flex-col text-sm" data-role="cell" :aria-label="`${row.name} in ${title}`">
    <div class="flex items-start gap-2 border-b border-line px-3 py-2">
      <div class="min-w-0 flex-1">
        <p class="truncate font-semibold">{{ row.name }}</p>
        <p class="text-soft">in {{ title }}</p>
      </div>
      <button
        v-if="mayChange() && query.data.value?.casts.some(open)"
        class="button py-0.5"
        data-role="cancel-cell"
        @click="cancelAll()"
      >
        Cancel these
      </button>
      <button class="button-bare px-1" aria-label="Close" @click="$emit('close')"><X :size="14" /></button>
    </div>
    <Trouble :error="query.error.value" />
    <ul class="min-h-0 flex-1 overflow-auto">
      <li
        v-for="cast in query.data.value?.casts"
        :key="cast.id"
        class="border-b border-line px-3 py-1.5"
        :data-cast="cast.number"
      >
        <div class="flex items-center gap-2">
          <Outcome :outcome="cast.outcome" />
          <RouterLink class="hover:underline" :to="`/runs/${row.run}?row=${cast.id}`">{{
            cast.number ? `Row ${cast.number}` : 'Open'
          }}</RouterLink>
          <span class="ml-auto text-soft">{{ seconds(cast.seconds) }}</span>
          <button
            v-if="open(cast) && mayChange()"
            class="button py-0"
            :aria-label="`Cancel row ${cast.number}`"
            @click="cancel(cast)"
          >
            Cancel
          </button>
        </div>
        <p v-if="values(cast)" class="truncate text-xs text-soft">{{ values(cast) }}</p>
        <p v-if="cast.outcome === 'running'" class="truncate text-xs">{{ cast.current }}</p>
        <p v-if="cast.failed_at" class="text-xs wrap-anywhere">{{ cast.failed_at }}</p>
        <p v-if="cast.message" class="text-xs wrap-anywhere text-bad">{{ cast.message }}</p>
      </li>
    </ul>
  </aside>
</template>
