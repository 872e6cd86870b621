<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Comments from '@/features/comments/Comments.vue'
import Draft from '@/shared/Draft.vue'
import PickOne from '@/shared/PickOne.vue'
import Picture from '@/shared/Picture.vue'
import Trouble from '@/shared/Trouble.vue'
import { isConflict, merged } from '@/shared/conflicts'
import { useAct } from '@/shared/acting'
import { usePeople } from '@/shared/lists'
import { say } from '@/shared/notes'
import { ago, exact } from '@/shared/times'
import { useRouteId } from '@/shared/routeId'

import DefectFiles from './DefectFiles.vue'
import HandedOver from './HandedOver.vue'

const queries = useQueryClient()
const router = useRouter()
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
    for (const name of ['state', 'severity', 'priority', 'owner_id'] as const)
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
const choose = (field: 'state' | 'severity' | 'priority', event: Event) =>
  change({ [field]: (event.target as HTMLSelectElement).value })
const owner = computed({
  get: () => {
    const { owner_id, owner } = shown.value!.defect
    return owner_id ? { id: owner_id, name: owner } : null
  },
  set: (person) => void change({ owner_id: person?.id ?? null }),
})
const { act: retest, busy: retesting } = useAct(() => ask(api.POST('/api/defects/{id}/retest', path())), {
  stale: [['runs']],
  done: ({ runs }) => void router.push(`/runs/${runs[0]}`),
})
const WHAT: Record<string, string> = { fixed_in: 'fixed in', title: 'title', notes: 'notes', tracker: 'handed over' }
const SHORT = new Set(['state', 'severity', 'priority', 'owner', 'fixed_in', 'tracker', 'file'])
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
        <label>
          Priority
          <select
            class="field ml-1 w-auto"
            :value="shown.defect.priority"
            :disabled="!mayChange() || saving"
            name="priority"
            @change="choose('priority', $event)"
          >
            <option v-for="one in catalogue.data.value?.priorities" :key="one">{{ one }}</option>
          </select>
        </label>
        <span class="flex items-center gap-1.5"
          >Has it
          <PickOne
            v-if="mayChange()"
            v-model="owner"
            class="w-44"
            :list="usePeople"
            label="Who has it"
            none="nobody"
          />
          <b v-else class="font-semibold">{{ shown.defect.owner || 'nobody' }}</b></span
        >
        <span>raised by {{ shown.defect.author || 'someone' }} {{ ago(shown.defect.created_at) }}</span>
      </div>
      <div
        v-if="shown.passed && shown.defect.state !== 'closed'"
        class="mb-4 flex flex-wrap items-center gap-3 rounded-md border border-line bg-lit-paper px-3 py-2 text-sm"
        data-role="passed"
      >
        All in which it was seen passed since, on release {{ shown.passed.release }}:
        <RouterLink class="underline" :to="`/runs/${shown.passed.run}`"
          >run {{ shown.passed.run }}</RouterLink
        >
        <template v-if="mayChange()">
          <button class="button ml-auto" :disabled="retesting" @click="retest()">Run them once more</button>
          <button
            class="button button-main"
            :disabled="saving"
            @click="change({ state: 'closed', fixed_in: shown.defect.fixed_in || shown.passed.release })"
          >
            Close it
          </button>
        </template>
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
          <DefectFiles :of="id" :files="shown.files" />
          <Comments place="defect" :of="id" />
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
            <template v-if="shown.requirements.length">
              <dt class="text-soft">Requirements</dt>
              <dd class="wrap-anywhere">{{ shown.requirements.join(', ') }}</dd>
            </template>
            <dt class="text-soft">Fixed in</dt>
            <dd>
              <Draft
                class="field py-0"
                :value="shown.defect.fixed_in"
                :keep="`defect ${id} fixed in`"
                :disabled="!mayChange()"
                aria-label="Fixed in release"
                @save="change({ fixed_in: $event })"
              />
            </dd>
          </dl>
          <HandedOver :of="id" :handed="shown.handed" />
          <section class="panel p-3">
            <h2 class="mb-2 flex items-center text-sm font-semibold">
              Seen in
              <button
                v-if="mayChange() && shown.sightings.length"
                class="button ml-auto py-0.5 font-normal"
                :disabled="retesting"
                title="Run the rows again in which it was seen"
                @click="retest()"
              >
                Retest
              </button>
            </h2>
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
          <section v-if="shown.history.length" class="panel p-3 text-sm" data-role="history">
            <h2 class="mb-2 font-semibold">History</h2>
            <ol class="flex max-h-56 flex-col gap-1 overflow-auto" tabindex="0" aria-label="History">
              <li v-for="(one, number) in shown.history" :key="number" class="flex gap-2">
                <span class="min-w-0 flex-1 wrap-anywhere"
                  >{{ WHAT[one.what] ?? one.what
                  }}<template v-if="SHORT.has(one.what)"
                    >: {{ one.before || 'nothing' }} → {{ one.after || 'nothing' }}</template
                  ><template v-else> changed</template
                  ><span class="text-soft">, {{ one.author || one.source || 'seen again' }}</span></span
                >
                <span class="shrink-0 text-xs text-soft" :title="exact(one.at)">{{ ago(one.at) }}</span>
              </li>
            </ol>
          </section>
        </aside>
      </div>
    </template>
  </div>
</template>
