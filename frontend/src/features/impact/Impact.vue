<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import type { Thing } from '@/api/queries'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { exact } from '@/shared/times'

/** What a change of something would touch: tests, plans and people. */
const props = defineProps<{ kind: Thing; of: string | number }>()
const query = useQuery({
  queryKey: computed(() => ['impact', props.kind, String(props.of)]),
  queryFn: () =>
    ask(api.GET('/api/impact', { params: { query: { kind: props.kind, key: String(props.of) } } })),
})
const told = computed(() => query.data.value)
const tests = computed(() => told.value?.tests.filter((one) => one.kind === 'test') ?? [])
const flows = computed(() => told.value?.tests.filter((one) => one.kind !== 'test') ?? [])
const count = (some: number, what: string) => `${some} ${some === 1 ? what : `${what}s`}`
</script>

<template>
  <div class="text-sm" data-role="impact">
    <p v-if="told" class="text-soft">
      A change of <b class="text-ink">{{ told.name }}</b> touches {{ count(tests.length, 'test') }},
      {{ count(told.plans.length, 'plan') }} and
      {{ told.people.length === 1 ? 'one person' : `${told.people.length} people` }}.
    </p>
    <Trouble :error="query.error.value" />
    <p v-if="told && !told.tests.length && !told.plans.length" class="mt-2 text-soft">Nothing uses it.</p>
    <div v-else-if="told" class="mt-2 grid gap-x-6 gap-y-3 sm:grid-cols-2">
      <section class="min-w-0">
        <h3 class="mb-1 text-soft">Tests</h3>
        <ul class="max-h-72 overflow-auto" tabindex="0" aria-label="Tests that are touched">
          <li v-for="one in [...tests, ...flows]" :key="one.id" class="flex items-baseline gap-2 py-0.5">
            <RouterLink
              class="min-w-0 truncate hover:underline"
              :to="`/tests/${one.id}`"
              >{{ one.name }}</RouterLink
            >
            <span class="min-w-0 flex-1 truncate text-xs text-soft" :title="one.via"
              >{{ one.kind === 'flow' ? 'flow, ' : '' }}{{ one.via }}</span
            >
            <RouterLink v-if="one.outcome" class="shrink-0" :to="`/runs/${one.run}`" :title="exact(one.at)"
              ><Outcome :outcome="one.outcome"
            /></RouterLink>
            <span v-else-if="one.kind === 'test'" class="shrink-0 text-soft">never ran</span>
          </li>
        </ul>
      </section>
      <div class="flex min-w-0 flex-col gap-3">
        <section v-if="told.plans.length">
          <h3 class="mb-1 text-soft">Plans</h3>
          <ul>
            <li v-for="one in told.plans" :key="one.id" class="flex items-baseline gap-2 py-0.5">
              <RouterLink class="truncate hover:underline" :to="`/plans/${one.id}`">{{ one.name }}</RouterLink>
              <span class="shrink-0 text-xs text-soft">{{ count(one.tests, 'test') }} of it</span>
              <span v-if="one.next_at" class="ml-auto shrink-0 text-xs text-soft">next {{ exact(one.next_at) }}</span>
            </li>
          </ul>
        </section>
        <section v-if="told.people.length">
          <h3 class="mb-1 text-soft">People</h3>
          <ul>
            <li v-for="one in told.people" :key="one.id" class="py-0.5">
              {{ one.name }} <span class="text-xs text-soft">{{ one.why.join(', ') }}</span>
            </li>
          </ul>
        </section>
      </div>
    </div>
  </div>
</template>
