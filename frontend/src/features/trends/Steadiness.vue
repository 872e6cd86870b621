<script setup lang="ts">
import type { Shapes } from '@/api/client'
import { percent } from '@/features/review/kinds'

/** Tests that come out otherwise though nothing has changed, with how sure that is. */
defineProps<{ tests: Shapes['TestTrend'][] }>()
</script>

<template>
  <section class="panel p-4 text-sm" aria-label="Unsteady tests">
    <h2 class="font-semibold">Unsteady tests</h2>
    <p class="mb-2 text-xs text-soft">
      Plays that came out otherwise though row, browser, version and release were the same. A test that always
      fails is steady. The line is where the true share lies, with 95 % confidence.
    </p>
    <table v-if="tests.length" class="list-table text-sm" data-role="unsteady">
      <thead>
        <tr>
          <th>Test</th>
          <th class="text-right">plays</th>
          <th>unsteady</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="test in tests" :key="test.test">
          <td class="max-w-56 truncate">
            <RouterLink class="hover:underline" :to="`/tests/${test.test}`">{{ test.name }}</RouterLink>
          </td>
          <td class="text-right whitespace-nowrap">{{ test.unsteady.times }} of {{ test.unsteady.of }}</td>
          <td>
            <span class="flex items-center gap-2 whitespace-nowrap"
              >{{ percent(test.unsteady.share) }}
              <span class="relative h-3 w-28 shrink-0 border-x border-line bg-sunk" aria-hidden="true"
                ><span
                  class="absolute top-1/2 h-0.5 -translate-y-1/2 bg-odd"
                  :style="{
                    left: `${test.unsteady.low * 100}%`,
                    width: `${(test.unsteady.high - test.unsteady.low) * 100}%`,
                  }" /><span
                  class="absolute top-0 h-full w-0.5 bg-ink"
                  :style="{ left: `${test.unsteady.share * 100}%` }"
              /></span>
              <span class="text-xs text-soft"
                >{{ percent(test.unsteady.low) }} to {{ percent(test.unsteady.high) }}</span
              ></span
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="text-soft">None: what was played the same way ended the same way.</p>
  </section>
</template>
