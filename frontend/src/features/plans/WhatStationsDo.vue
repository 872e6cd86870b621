<script setup lang="ts">
import type { Shapes } from '@/api/client'
import { useBrowserTitles } from '@/api/queries'

/** What each station does for a run of a plan just now. */
const titled = useBrowserTitles()
defineProps<{ stations: Shapes['StationPlays'][] }>()
</script>

<template>
  <section class="text-sm" data-role="stations">
    <h2 class="mb-1 font-semibold">What stations do</h2>
    <p v-if="!stations.length" class="text-odd">No station is up: nothing of it can be played.</p>
    <ul class="flex flex-col gap-1">
      <li v-for="one in stations" :key="one.station" class="flex gap-2">
        <span class="w-40 shrink-0 truncate font-medium">{{ one.station }}</span>
        <span v-if="!one.plays.length" class="text-soft">nothing of this, {{ one.places }} places</span>
        <ul v-else class="min-w-0">
          <li v-for="cast in one.plays" :key="cast.cast" class="truncate">
            <RouterLink class="hover:underline" :to="`/runs/${cast.run}?row=${cast.cast}`"
              >{{ cast.test }}<template v-if="cast.number">, row {{ cast.number }}</template></RouterLink
            >
            <span class="text-soft"> in {{ titled(cast.browser) }} · {{ cast.sentence || 'begins' }}</span>
          </li>
        </ul>
      </li>
    </ul>
  </section>
</template>
