<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import { exact } from '@/shared/times'

/** The mails about one run of a plan. */
const props = defineProps<{ planRun: number }>()
const query = useQuery({
  queryKey: computed(() => ['plan run', props.planRun, 'mails']),
  queryFn: () => ask(api.GET('/api/plan-runs/{id}/mails', { params: { path: { id: props.planRun } } })),
  refetchInterval: (now) => (now.state.data?.mails.some((one) => one.state === 'waiting') ? 3000 : false),
})
const mails = computed(() => query.data.value?.mails ?? [])
</script>

<template>
  <section v-if="mails.length" class="text-sm" data-role="mails">
    <h2 class="mb-1 font-semibold">Mails</h2>
    <ul class="flex flex-col gap-0.5">
      <li v-for="one in mails" :key="one.id">
        {{ one.person }}
        <span
          :class="one.state === 'sent' ? 'text-soft' : 'text-odd'"
          :title="one.done_at ? exact(one.done_at) : ''"
          >{{ one.state === 'waiting' && one.tries ? 'not taken yet' : one.state
          }}<template v-if="one.state !== 'sent' && one.said">: {{ one.said }}</template></span
        >
        <span class="text-soft"> · {{ one.why }}</span>
      </li>
    </ul>
  </section>
</template>
