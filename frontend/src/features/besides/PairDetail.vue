<script setup lang="ts">
import type { Shapes } from '@/api/client'
import { seconds } from '@/shared/times'

import LitPair from './LitPair.vue'
import { WHAT } from './words'

/** All that differs between a sentence in two plays, and the pictures of both. */
defineProps<{ pair: Shapes['PairOut'] }>()
</script>

<template>
  <section class="flex flex-col gap-3 text-sm" data-role="pair-detail" tabindex="0" aria-label="What differs">
    <p v-if="!pair.differs.length" class="text-soft">Nothing differs here.</p>
    <div v-for="one in pair.differs" :key="one.what" class="panel p-3" :data-what="one.what">
      <h2 class="mb-1 font-semibold">{{ WHAT[one.what].title }}</h2>
      <div class="grid grid-cols-2 gap-4">
        <ul v-for="(side, number) in [one.one, one.other]" :key="number" class="min-w-0">
          <li
            v-for="text in side"
            :key="text"
            class="wrap-anywhere"
            :class="one.what === 'sentence' && 'story'"
          >
            {{ text || '(nothing)' }}
          </li>
          <li v-if="!side.length" class="text-soft">
            {{ one.what === 'there' ? 'It is not there.' : 'None that the other lacks.' }}
          </li>
        </ul>
      </div>
    </div>
    <p v-if="pair.aside" class="text-xs text-soft">
      {{ pair.aside }} {{ pair.aside === 1 ? 'text differs' : 'texts differ' }} only in what moves by itself,
      such as dates, and are set aside.
    </p>
    <LitPair v-if="pair.one && pair.other" :one="pair.one.result" :other="pair.other.result" />
    <p v-if="pair.one && pair.other" class="text-xs text-soft">
      {{ seconds(pair.one.used) }} here, {{ seconds(pair.other.used) }} there
    </p>
  </section>
</template>
