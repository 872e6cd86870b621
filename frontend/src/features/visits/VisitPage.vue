<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Empty from '@/shared/Empty.vue'
import Outcome from '@/shared/Outcome.vue'
import Trouble from '@/shared/Trouble.vue'
import { useRouteId } from '@/shared/routeId'
import { ago, exact } from '@/shared/times'

/** What one visit of the known pages told: what would not be found any more, and which texts changed. */
type Page = Shapes['VisitedPage']
const id = useRouteId()
const GOING = ['queued', 'running']
const query = useQuery({
  queryKey: computed(() => ['visit', id.value]),
  queryFn: () => ask(api.GET('/api/visits/{id}', { params: { path: { id: id.value } } })),
  refetchInterval: (its) => (GOING.includes(its.state.data?.visit.state ?? 'queued') ? 1500 : false),
})
const visit = computed(() => query.data.value?.visit)
const going = computed(() => GOING.includes(visit.value?.state ?? 'queued'))
const pages = computed(() => query.data.value?.pages ?? [])
const came = computed(() => pages.value.filter((one) => one.reached).length)
const every = ref(false)
const lost = (page: Page) => page.met.filter((one) => one.lost)
const shown = computed(() =>
  pages.value.filter((one) => every.value || one.changed || (!one.reached && !going.value)),
)
const total = computed(() => pages.value.reduce((sum, one) => sum + lost(one).length, 0))
const count = (some: number, what: string) => `${some} ${some === 1 ? what : `${what}s`}`
</script>

<template>
  <div class="page">
    <Trouble :error="query.error.value" />
    <template v-if="visit">
      <p class="text-sm text-soft"><RouterLink to="/pages" class="hover:underline">Pages</RouterLink> · visit</p>
      <div class="mb-1 flex flex-wrap items-center gap-3">
        <h1 class="heading">{{ visit.environment }}, taken in again</h1>
        <Outcome v-if="going" :outcome="visit.state" data-role="visit-state" />
        <label class="ml-auto flex items-center gap-1.5 text-sm text-soft"
          ><input v-model="every" type="checkbox" /> also what is as it was</label
        >
      </div>
      <p class="mb-4 text-sm text-soft" data-role="visit-sum" aria-live="polite">
        {{ came }} of {{ count(visit.pages, 'page') }} came;
        <b :class="total ? 'text-bad' : 'text-ink'">{{ count(total, 'element') }}</b> would not be found any more.
        By {{ visit.author || 'somebody' }} <span :title="exact(visit.at)">{{ ago(visit.at) }}</span
        >, <RouterLink class="underline" :to="`/runs/${visit.run}`">as run {{ visit.run }}</RouterLink
        >.
      </p>
      <Empty v-if="!going && !shown.length" title="All is as it was">
        Everything that was found on these pages is found still, and their texts are the same.
      </Empty>
      <ul class="flex flex-col gap-4">
        <li v-for="one in shown" :key="one.address" class="panel p-4 text-sm" :data-visited="one.page">
          <div class="mb-1 flex flex-wrap items-baseline gap-2">
            <RouterLink class="font-semibold hover:underline" :to="{ path: '/pages', query: { page: one.page } }">{{
              one.page
            }}</RouterLink>
            <span class="text-soft">{{ one.address }}</span>
            <span v-if="one.title && one.title !== one.page" class="text-odd">is called “{{ one.title }}” now</span>
            <span v-if="!one.reached" class="text-odd">did not come, or led elsewhere</span>
            <span v-else-if="!one.known" class="text-soft">was never kept before</span>
          </div>
          <table v-if="lost(one).length || every" class="list-table">
            <thead>
              <tr>
                <th class="w-64">Element</th>
                <th class="w-44">Its clues</th>
                <th>Could be</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="each in every ? one.met : lost(one)" :key="each.element">
                <td>
                  <RouterLink
                    class="hover:underline"
                    :to="{ path: '/pages', query: { page: one.page, element: each.element } }"
                    >{{ each.name }}</RouterLink
                  >
                </td>
                <td :class="{ 'text-bad': each.lost }">
                  {{ each.word }}<template v-if="each.count > 1"> ({{ each.count }})</template>
                </td>
                <td>
                  <template v-if="each.likely"
                    >“{{ each.likely }}”
                    <span class="text-soft">{{ Math.round(each.score * 100) }} % likely</span></template
                  ><span v-else-if="each.lost" class="text-soft">nothing like it is there</span>
                </td>
              </tr>
            </tbody>
          </table>
          <div v-if="one.new.length || one.gone.length" class="mt-2 grid gap-4 sm:grid-cols-2">
            <div v-if="one.gone.length">
              <h3 class="text-soft">Texts that are gone</h3>
              <ul>
                <li v-for="text in one.gone" :key="text" class="wrap-anywhere">{{ text }}</li>
              </ul>
            </div>
            <div v-if="one.new.length">
              <h3 class="text-soft">Texts that are new</h3>
              <ul>
                <li v-for="text in one.new" :key="text" class="wrap-anywhere">{{ text }}</li>
              </ul>
            </div>
          </div>
        </li>
      </ul>
    </template>
  </div>
</template>
