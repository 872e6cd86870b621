<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'
import { useAct } from '@/shared/acting'
import { takenBack } from '@/shared/takingBack'

import type { Rehearsing } from './useRehearsal'

/** What one changed since the rehearsal began, to be kept or taken back one by one. */
const props = defineProps<{ rehearsing: Rehearsing; test: Test }>()
const since = computed(() => props.rehearsing.state.value?.began ?? '')
const query = useQuery({
  queryKey: computed(() => ['test', props.test.id, 'acts', since.value]),
  queryFn: () =>
    ask(
      api.GET('/api/tests/{id}/acts', {
        params: { path: { id: props.test.id }, query: { since: since.value } },
      }),
    ),
  enabled: computed(() => since.value !== ''),
})
const kept = ref<number[]>([])
const acts = computed(() => query.data.value?.acts.filter((one) => !kept.value.includes(one.id)) ?? [])
const { act: takeBack, busy } = useAct(
  (id: number) =>
    takenBack(
      (force) => ask(api.POST('/api/acts/{id}/undo', { params: { path: { id } }, body: { force } })),
      null as unknown as { done: boolean },
    ),
  { stale: () => [['test', props.test.id], ['pages'], ['element']] },
)
</script>

<template>
  <div class="h-full min-h-0 overflow-auto px-3 py-1 text-sm" data-role="changes">
    <p v-if="!acts.length" class="py-1 text-soft">
      {{
        kept.length
          ? 'All that you changed is kept.'
          : 'You have changed nothing in the story or its elements since it began.'
      }}
    </p>
    <ul>
      <li
        v-for="one in acts"
        :key="one.id"
        class="flex items-baseline gap-2 border-b border-line py-0.5"
        :data-act="one.id"
      >
        <span class="min-w-0 flex-1 wrap-anywhere" :class="one.back && 'text-soft line-through'">
          {{ one.summary }}<span v-if="one.place !== test.id" class="text-soft"> in {{ one.name }}</span>
        </span>
        <template v-if="!one.back">
          <button class="button px-2 py-0" @click="kept = [...kept, one.id]">Keep</button>
          <button class="button px-2 py-0" :disabled="busy" @click="takeBack(one.id)">Take back</button>
        </template>
        <span v-else class="text-soft">taken back</span>
      </li>
    </ul>
  </div>
</template>
