<script setup lang="ts">
import { useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'
import Apart from '@/shared/Apart.vue'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'

import type { Edits } from '@/features/editing/useEdits'
import { vScrolls } from '@/shared/scrolls'

/** Who changed what and when; what differs from the version that is shown now; going back. */
const props = defineProps<{ test: Test; edits: Edits; fixed: boolean }>()
const emit = defineEmits<{ run: [version: number]; choose: [step: string] }>()

const chosen = ref(0)
const list = useInfiniteQuery({
  queryKey: computed(() => ['test', props.test.id, 'versions', props.test.version, props.test.baseline]),
  queryFn: ({ pageParam }) =>
    ask(
      api.GET('/api/tests/{id}/versions', {
        params: { path: { id: props.test.id }, query: pageParam ? { before: pageParam } : {} },
      }),
    ),
  initialPageParam: 0,
  getNextPageParam: (last) => (last.more ? last.versions.at(-1)!.number : undefined),
  placeholderData: (before) => before,
})
const versions = computed(() => list.data.value?.pages.flatMap((page) => page.versions) ?? [])
const changes = useQuery({
  queryKey: computed(() => ['test', props.test.id, 'compare', chosen.value, props.test.version]),
  queryFn: () =>
    ask(
      api.GET('/api/tests/{id}/compare', {
        params: { path: { id: props.test.id }, query: { before: chosen.value, after: props.test.version } },
      }),
    ),
  enabled: computed(() => chosen.value > 0),
})
watch(
  () => props.test.baseline,
  (now) => (chosen.value ||= now ?? 0),
  { immediate: true },
)
const nothing = computed(() => {
  const found = changes.data.value
  return found && !found.steps.length && !found.others.length
})

async function restore() {
  if (await props.edits.restore(chosen.value))
    say(`Version ${chosen.value} is back.`, () => void props.edits.undo())
}
</script>

<template>
  <div class="grid h-full grid-cols-[24rem_minmax(0,1fr)] text-sm" data-role="versions">
    <ol class="min-h-0 overflow-auto border-r border-line" aria-label="Versions">
      <li v-for="one in versions" :key="one.number">
        <button
          class="flex w-full items-baseline gap-2 border-b border-line px-3 py-1 text-left hover:bg-sunk"
          :class="one.number === chosen && 'bg-sunk font-medium'"
          :aria-current="one.number === chosen"
          data-role="version"
          @click="chosen = one.number"
        >
          <span class="w-8 shrink-0 text-soft">{{ one.number }}</span>
          <span class="min-w-0 flex-1 truncate">{{ one.summary }}</span>
          <span v-if="one.number === test.baseline" class="chip">baseline</span>
          <span class="shrink-0 text-xs text-soft" :title="exact(one.at)"
            >{{ one.author || 'Lantern' }}, {{ ago(one.at) }}</span
          >
        </button>
      </li>
      <li v-if="list.hasNextPage.value" class="p-2 text-center">
        <button class="button" @click="list.fetchNextPage()">Older versions</button>
      </li>
    </ol>
    <div class="flex min-h-0 flex-col">
      <p v-if="!chosen" class="px-4 py-3 text-soft">
        Choose a version to see what has changed since. Mark the one that played cleanly as the baseline: what
        fails later is then held against what was changed.
      </p>
      <template v-else>
        <div class="flex flex-wrap items-center gap-2 border-b border-line px-3 py-1.5">
          <span class="mr-auto">From version {{ chosen }} to now</span>
          <template v-if="!fixed">
            <button
              v-if="chosen !== test.baseline"
              class="button"
              data-role="mark-baseline"
              @click="edits.setBaseline(chosen)"
            >
              Mark as baseline
            </button>
            <button v-else class="button" @click="edits.setBaseline(null)">No baseline any more</button>
            <button class="button" title="Run it as it was" @click="emit('run', chosen)">
              Run version {{ chosen }}
            </button>
            <button class="button" :disabled="chosen === test.version || nothing" @click="restore">
              Restore
            </button>
          </template>
        </div>
        <ul v-scrolls class="min-h-0 flex-1 overflow-auto" aria-label="Changes">
          <li
            v-for="one in changes.data.value?.steps ?? []"
            :key="one.step + one.what"
            class="grid grid-cols-[5rem_minmax(0,1fr)_minmax(0,1fr)] gap-3 border-b border-line px-3 py-1"
            data-role="change"
          >
            <span class="text-soft" :title="one.parts.join(', ')">{{ one.what }}</span>
            <span class="font-story wrap-anywhere" :class="one.what === 'removed' && 'line-through'"
              ><Apart :text="one.before" :other="one.after"
            /></span>
            <button
              v-if="one.after"
              class="text-left font-story wrap-anywhere hover:underline"
              @click="emit('choose', one.step)"
            >
              <Apart :text="one.after" :other="one.before" /><span
                v-if="one.before === one.after"
                class="font-sans text-xs text-soft"
              >
                {{ one.parts.join(', ') }}</span
              >
            </button>
          </li>
          <li
            v-for="one in changes.data.value?.others ?? []"
            :key="one"
            class="border-b border-line px-3 py-1"
          >
            {{ one }}
          </li>
          <li v-if="nothing" class="px-3 py-2 text-soft">Nothing has changed since.</li>
        </ul>
      </template>
    </div>
  </div>
</template>
