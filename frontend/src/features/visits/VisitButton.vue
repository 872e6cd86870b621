<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import Modal from '@/shared/Modal.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { ago, exact } from '@/shared/times'

/** Taking all known pages in again, and what earlier visits told. */
defineOptions({ inheritAttrs: false })
const open = ref(false)
const router = useRouter()
const environments = useEnvironments()
const chosen = ref(0)
const query = useQuery({
  queryKey: ['visits'],
  queryFn: () => ask(api.GET('/api/visits')),
  enabled: open,
})
const {
  act: visit,
  busy,
  trouble,
} = useAct(
  () => {
    const environment = chosen.value || (environments.data.value?.environments[0]?.id ?? 0)
    return ask(api.POST('/api/visits', { body: { environment } }))
  },
  {
    inPlace: true,
    stale: [['visits']],
    done: ({ id }) => {
      open.value = false
      return router.push(`/visits/${id}`)
    },
  },
)
</script>

<template>
  <button
    type="button"
    class="button"
    data-role="visit"
    v-bind="$attrs"
    title="After a release: open each known page once, and see what would not be found"
    @click="open = true"
  >
    Take in again…
  </button>
  <Modal v-model:open="open" title="Take the pages in again" wide>
    <p class="mb-3 text-sm text-soft">
      Each page that is known by its elements is opened once; nothing else is done. What would not be found on them any
      more is told then.
      <template v-if="query.data.value?.signs_in">
        Before, <b class="font-semibold">{{ query.data.value.signs_in }}</b> signs in.
      </template>
      <template v-else-if="query.data.value">
        No flow signs in without values of its own: pages behind a sign-in are not reached.
      </template>
    </p>
    <form v-if="mayChange()" class="flex items-end gap-3 text-sm" @submit.prevent="visit()">
      <label
        >In
        <select v-model="chosen" class="field mt-1" name="environment">
          <option :value="0" hidden>{{ environments.data.value?.environments[0]?.name }}</option>
          <option v-for="one in environments.data.value?.environments" :key="one.id" :value="one.id">
            {{ one.name }}
          </option>
        </select>
      </label>
      <button class="button button-main" :disabled="busy || !query.data.value?.known">
        Visit {{ query.data.value?.known ?? '…' }} {{ query.data.value?.known === 1 ? 'page' : 'pages' }}
      </button>
      <span v-if="query.data.value && !query.data.value.known" class="text-soft">
        None is known yet: run a test, and those it goes through are.
      </span>
    </form>
    <Trouble :error="trouble ?? query.error.value" class="mt-2" />
    <template v-if="query.data.value?.visits.length">
      <h3 class="mt-4 mb-1 text-sm font-semibold">Earlier visits</h3>
      <ul class="text-sm">
        <li v-for="one in query.data.value.visits" :key="one.id" class="flex items-baseline gap-3 py-0.5">
          <RouterLink class="underline" :to="`/visits/${one.id}`">{{ one.environment }}</RouterLink>
          <Outcome :outcome="one.state" />
          <span class="text-soft">{{ one.pages }} pages, {{ one.author || 'somebody' }}</span>
          <span class="ml-auto text-xs text-soft" :title="exact(one.at)">{{ ago(one.at) }}</span>
        </li>
      </ul>
    </template>
  </Modal>
</template>
