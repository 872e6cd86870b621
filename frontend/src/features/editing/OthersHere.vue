<script setup lang="ts">
import { computed } from 'vue'

import { session } from '@/api/client'
import type { Test } from '@/api/client'
import { others } from '@/api/presence'
import type { Other } from '@/api/presence'

/** Who else has this test open, at which sentence, and what they do. */
const props = defineProps<{ test: Test }>()
defineEmits<{ choose: [step: string] }>()

/** Whose rehearsals can be looked at: those of other people. */
const rehearsing = computed(() => {
  const me = session.me?.account.id
  const found = others.value.filter((one) => one.doing === 'rehearsing' && one.account !== me)
  return [...new Map(found.map((one) => [one.account, one])).values()].slice(0, 2)
})
const numbers = computed(() => new Map(props.test.steps.map((step, n) => [step.id, n + 1])))
function words({ name, at, doing }: Other): string {
  const who = name === session.me?.account.name ? 'You, in another window' : name
  const where = numbers.value.has(at) ? `at sentence ${numbers.value.get(at)}` : ''
  return [who, doing, where].filter(Boolean).join(', ')
}
</script>

<template>
  <p
    v-if="others.length"
    class="flex shrink-0 items-center gap-1 text-xs text-soft max-[1150px]:max-w-40"
    aria-label="Also here"
    data-role="others"
  >
    <button
      v-for="one in others.slice(0, 2)"
      :key="one.who"
      class="truncate border-l-2 border-lit pl-1.5 text-left hover:text-ink"
      :title="words(one)"
      :aria-label="words(one)"
      @click="numbers.has(one.at) && $emit('choose', one.at)"
    >
      {{ words(one) }}
    </button>
    <a
      v-for="one in rehearsing"
      :key="`watch ${one.who}`"
      class="button shrink-0 px-1.5 py-0 text-xs"
      :href="`/tests/${test.id}?of=${one.account}`"
      data-role="look-on"
      >Look on</a
    >
    <span v-if="others.length > 2" :title="others.slice(2).map(words).join('\n')"
      >and {{ others.length - 2 }} more</span
    >
  </p>
</template>
