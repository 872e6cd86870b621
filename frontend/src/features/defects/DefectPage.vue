<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Draft from '@/shared/Draft.vue'
import Picture from '@/shared/Picture.vue'
import Trouble from '@/shared/Trouble.vue'
import { isConflict, merged } from '@/shared/conflicts'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'
import { useRouteId } from '@/shared/routeId'

const queries = useQueryClient()
const id = useRouteId()
const catalogue = useCatalogue()
const defect = useQuery({
  queryKey: computed(() => ['defect', id.value]),
  queryFn: () => ask(api.GET('/api/defects/{id}', { params: { path: { id: id.value } } })),
})
const shown = computed(() => defect.data.value)

type Defect = Shapes['DefectOut']
const TEXTS = ['title', 'steps', 'expected', 'found', 'notes'] as const
type Text = (typeof TEXTS)[number]
type Fields = Partial<Shapes['DefectChange']>
const path = () => ({ params: { path: { id: id.value } } })

/**
 * Send a change. Where somebody else changed the defect since, a text of both is asked about, and
 * what is chosen from a list is refused where they chose otherwise.
 */
async function send(before: Defect, fields: Fields): Promise<Defect> {
  try {
    return await ask(
      api.PATCH('/api/defects/{id}', { ...path(), body: { version: before.version, ...fields } }),
    )
  } catch (error) {
    if (!isConflict(error)) throw error
    const now = await ask(api.GET('/api/defects/{id}', path()))
    const meant = { ...fields }
    for (const name of ['state', 'severity'] as const)
      if (name in fields && before.defect[name] !== now.defect[name]) throw error
    for (const name of TEXTS) {
      const mine = fields[name]
      if (typeof mine !== 'string') continue
      const text = await merged(name, mine, textOf(before, name), textOf(now, name))
      if (text === null) delete meant[name]
      else meant[name] = text
    }
    return Object.keys(meant).length ? send(now, meant) : now
  }
}
const textOf = (one: Defect, name: Text) => (name === 'title' ? one.defect.title : one[name])

const { act: change, busy: saving } = useAct((fields: Fields) => send(shown.value!, fields), {
  stale: () => [['defect', id.value], ['defects']],
  done: (now) => {
    queries.setQueryData(['defect', id.value], now)
    say('Saved.')
  },
})

function save(field: Text, value: string) {
  if (field !== 'title' || value.trim()) void change({ [field]: value })
}
const choose = (field: 'state' | 'severity', event: Event) =>
  change({ [field]: (event.target as HTMLSelectElement).value })
</script>

<template>
  <div class="page">
    <Trouble :error="defect.error.value" />
    <template v-if="shown">
      <p class="text-sm text-soft">
        <RouterLink to="/defects" class="hover:underline">Defects</RouterLink> · {{ id }}
      </p>
      <Draft
        class="heading w-full border-b border-transparent bg-transparent py-1 hover:border-line"
        :value="shown.defect.title"
        :keep="`defect ${id} title`"
        :disabled="!mayChange()"
        aria-label="Title"
        @save="save('title', $event)"
      />
      <div class="mt-2 mb-4 flex flex-wrap items-center gap-4 text-sm text-soft">
        <label>
          State
          <select
            class="field ml-1 w-auto"
            :value="shown.defect.state"
            :disabled="!mayChange() || saving"
            name="state"
            @change="choose('state', $event)"
          >
            <option v-for="one in catalogue.data.value?.defect_states" :key="one">{{ one }}</option>
          </select>
        </label>
        <label>
          Severity
          <select
            class="field ml-1 w-auto"
            :value="shown.defect.severity"
            :disabled="!mayChange() || saving"
            name="severity"
            @change="choose('severity', $event)"
          >
            <option v-for="one in catalogue.data.value?.severities" :key="one">{{ one }}</option>
          </select>
        </label>
        <span>raised by {{ shown.defect.author || 'someone' }} {{ ago(shown.defect.created_at) }}</span>
      </div>
      <div class="grid gap-5 lg:grid-cols-[1fr_26rem]">
        <div class="flex flex-col gap-4">
          <label class="text-sm font-semibold">
            Steps to repeat
            <Draft
              class="field mt-1 font-story font-normal"
              :lines="Math.min(16, shown.steps.split('\n').length + 1)"
              :value="shown.steps"
              :keep="`defect ${id} steps`"
              :disabled="!mayChange()"
              @save="save('steps', $event)"
            />
          </label>
          <div class="grid grid-cols-2 gap-3">
            <label class="text-sm font-semibold">
              Expected
              <Draft
                class="field mt-1 font-normal"
                :lines="2"
                :value="shown.expected"
                :keep="`defect ${id} expected`"
                :disabled="!mayChange()"
                @save="save('expected', $event)"
              />
            </label>
            <label class="text-sm font-semibold">
              Found
              <Draft
                class="field mt-1 font-normal"
                :lines="2"
                :value="shown.found"
                :keep="`defect ${id} found`"
                :disabled="!mayChange()"
                @save="save('found', $event)"
              />
            </label>
          </div>
          <label class="text-sm font-semibold">
            Notes
            <Draft
              class="field mt-1 font-normal"
              :lines="4"
              :value="shown.notes"
              :keep="`defect ${id} notes`"
              :disabled="!mayChange()"
              aria-label="Notes"
              @save="save('notes', $event)"
            />
          </label>
        </div>
        <aside class="flex flex-col gap-4">
          <Picture v-if="shown.picture" :digest="shown.picture" alt="The page at the failure" />
          <dl class="panel grid grid-cols-[max-content_1fr] gap-x-4 gap-y-1 p-3 text-sm">
            <dt class="text-soft">Environment</dt>
            <dd class="wrap-anywhere">{{ shown.defect.environment }}</dd>
            <dt class="text-soft">Browser</dt>
            <dd>{{ shown.browser }}</dd>
            <dt class="text-soft">Release</dt>
            <dd>{{ shown.defect.release || 'not told' }}</dd>
          </dl>
          <section class="panel p-3">
            <h2 class="mb-2 text-sm font-semibold">Seen in</h2>
            <ul class="flex max-h-56 flex-col gap-1 overflow-auto text-sm">
              <li v-for="one in shown.sightings" :key="one.result_id" class="flex gap-2">
                <RouterLink
                  class="truncate hover:underline"
                  :to="`/runs/${one.run_id}?row=${one.cast_id}&result=${one.result_id}`"
                  data-role="sighting"
                >
                  Run {{ one.run_id }}<template v-if="one.row">, row {{ one.row }}</template> of
                  {{ one.test_name }}
                </RouterLink>
                <span class="ml-auto shrink-0 text-xs text-soft" :title="exact(one.at)">{{
                  ago(one.at)
                }}</span>
              </li>
            </ul>
          </section>
        </aside>
      </div>
    </template>
  </div>
</template>
