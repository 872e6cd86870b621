<script setup lang="ts">
import { computed } from 'vue'

import type { Shapes } from '@/api/client'
import Trouble from '@/shared/Trouble.vue'

import { span } from './words'

/** What a plan comes to before it starts: how much, how long, where, and what is missing. */
const props = defineProps<{ outlook?: Shapes['OutlookOut']; error: unknown }>()
const problems = computed(() => Object.entries(props.outlook?.problems ?? {}))
const plural = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`
</script>

<template>
  <Trouble :error="error" />
  <section
    v-if="outlook"
    class="mb-5 rounded-md border border-line bg-sunk px-4 py-2 text-sm"
    data-role="outlook"
    aria-live="polite"
  >
    <p v-if="outlook.trouble" class="text-odd">{{ outlook.trouble }}</p>
    <p v-else>
      <b>{{ plural(new Set(outlook.tests.map((one) => one.id)).size, 'test') }}</b>,
      <b>{{ plural(outlook.casts, 'cast') }}</b><template v-if="outlook.whole"
        >, {{ span(outlook.whole) }}</template
      >,
      <template v-if="outlook.stations.length">
        on
        {{ outlook.stations.length === 1 ? outlook.stations[0] : plural(outlook.stations.length, 'station') }}
      </template>
      <span v-else class="text-odd">no station that is up can play it</span>
    </p>
    <p v-if="outlook.missing.length" class="text-odd">
      Nobody offers {{ outlook.missing.join(' or ') }}: its casts would wait.
    </p>
    <details v-for="(said, title) in outlook.lacks" :key="title" class="text-soft" data-role="lacks">
      <summary class="cursor-pointer">{{ title }} can not do all of it</summary>
      <ul class="ml-5 list-disc">
        <li v-for="one in said" :key="one">{{ one }}</li>
      </ul>
    </details>
    <p v-for="one in outlook.empty" :key="one" class="text-odd">{{ one }}</p>
    <details v-if="problems.length" class="text-odd" open>
      <summary class="cursor-pointer">{{ plural(problems.length, 'test') }} would fail for certain</summary>
      <ul class="ml-5 list-disc">
        <li v-for="[name, said] in problems" :key="name">“{{ name }}”: {{ said.slice(0, 3).join(' ') }}</li>
      </ul>
    </details>
  </section>
</template>
