<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import Modal from '@/shared/Modal.vue'
import Picture from '@/shared/Picture.vue'
import Trouble from '@/shared/Trouble.vue'
import { draftOf, dropDraft, keepDraft } from '@/shared/drafts'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

/** Raised from a result on record, or from a failure that a rehearsal showed. */
/** `also` are results that failed of the same cause. */
const props = defineProps<{ resultId?: number; failure?: Shapes['FailureIn']; also?: number[] }>()
const open = defineModel<boolean>('open', { required: true })
const router = useRouter()
const catalogue = useCatalogue()
const fields = ref({ title: '', severity: 'major', steps: '', expected: '', found: '', notes: '' })

const draft = useQuery({
  queryKey: computed(() => ['draft', props.resultId, props.failure]),
  queryFn: () =>
    props.resultId
      ? ask(api.GET('/api/results/{id}/defect', { params: { path: { id: props.resultId } } }))
      : ask(api.POST('/api/defects/draft', { body: props.failure! })),
  staleTime: 0,
})
const place = `new defect ${props.resultId ?? `of ${props.failure?.step}`}`
const left = draftOf<typeof fields.value>(place)
watch(
  () => draft.data.value,
  (made) => {
    if (left) fields.value = left
    else if (made)
      fields.value = {
        ...fields.value,
        title: made.title,
        severity: made.severity,
        steps: made.steps,
        expected: made.expected,
        found: made.found,
      }
  },
  { immediate: true },
)

/** What is typed stays at this desk until the defect is raised. */
const keep = () => keepDraft(place, fields.value)

/** Put the failure on record: as one more sighting of a defect that is known, or as a new one. */
const {
  act,
  busy,
  trouble: error,
} = useAct(
  (known: number | null) => {
    if (known === null)
      return ask(
        api.POST('/api/defects', {
          body: {
            result_id: props.resultId ?? null,
            failure: props.resultId ? null : (props.failure ?? null),
            also: props.also ?? [],
            ...fields.value,
          },
        }),
      )
    if (!props.resultId) return ask(api.GET('/api/defects/{id}', { params: { path: { id: known } } }))
    const body = { result_id: props.resultId, also: props.also ?? [] }
    return ask(api.POST('/api/defects/{id}/sightings', { params: { path: { id: known } }, body }))
  },
  {
    inPlace: true,
    stale: [['run'], ['defects'], ['causes']],
    done: ({ defect }) => {
      dropDraft(place)
      open.value = false
      say(`The failure is on record as defect ${defect.id}.`)
      return router.push(`/defects/${defect.id}`)
    },
  },
)
const raise = () => act(null)
const same = (id: number) => act(id)
</script>

<template>
  <Modal v-model:open="open" title="Raise a defect" wide>
    <Trouble :error="draft.error.value" />
    <template v-if="draft.data.value">
      <div
        v-if="draft.data.value.same_as.length"
        class="mb-4 rounded-md border border-strong-line p-3"
        data-role="same"
      >
        <p class="mb-2 text-sm font-medium">This failure was raised before:</p>
        <div
          v-for="one in draft.data.value.same_as"
          :key="one.id"
          class="flex items-center gap-3 py-1 text-sm"
        >
          <span class="min-w-0 flex-1 truncate">Defect {{ one.id }} ({{ one.state }}): {{ one.title }}</span>
          <button class="button" :disabled="busy" @click="same(one.id)">It is this one</button>
        </div>
      </div>
      <div v-if="draft.data.value.alike.length" class="mb-4 rounded-md border border-line p-3" data-role="alike">
        <p class="mb-2 text-sm font-medium">It looks like what was raised elsewhere:</p>
        <div
          v-for="one in draft.data.value.alike"
          :key="one.defect.id"
          class="flex items-center gap-3 py-1 text-sm"
        >
          <span class="min-w-0 flex-1"
            ><span class="block truncate"
              >Defect {{ one.defect.id }} ({{ one.defect.state }}): {{ one.defect.title }}</span
            ><span class="block truncate text-xs text-soft"
              >{{ Math.round(one.share * 100) }} % alike<template v-if="one.why.length"
                >: {{ one.why.join(', ') }}</template
              ></span
            ></span
          >
          <button class="button" :disabled="busy" @click="same(one.defect.id)">It is this one</button>
        </div>
      </div>
      <form class="flex flex-col gap-3" @submit.prevent="raise" @input="keep" @change="keep">
        <div class="flex gap-3">
          <label class="flex-1 text-sm"
            >Title <input v-model="fields.title" class="field mt-1" name="title" required maxlength="300"
          /></label>
          <label class="w-36 text-sm">
            Severity
            <select v-model="fields.severity" class="field mt-1" name="severity">
              <option v-for="one in catalogue.data.value?.severities" :key="one">{{ one }}</option>
            </select>
          </label>
        </div>
        <label class="text-sm"
          >Steps to repeat
          <textarea v-model="fields.steps" class="field mt-1 font-story" rows="6" name="steps" />
        </label>
        <div class="grid grid-cols-2 gap-3">
          <label class="text-sm"
            >Expected <textarea v-model="fields.expected" class="field mt-1" rows="2" name="expected" />
          </label>
          <label class="text-sm"
            >Found <textarea v-model="fields.found" class="field mt-1" rows="2" name="found" />
          </label>
        </div>
        <div class="grid grid-cols-[1fr_14rem] gap-3">
          <label class="text-sm"
            >Notes <textarea v-model="fields.notes" class="field mt-1" rows="4" name="notes" />
          </label>
          <Picture
            v-if="draft.data.value.picture"
            :digest="draft.data.value.picture"
            alt="The page at the failure"
          />
        </div>
        <p v-if="also?.length" class="text-sm" data-role="also">
          Seen in {{ also.length + 1 }} failures: they have one cause.
        </p>
        <p class="text-xs text-soft">
          {{ draft.data.value.environment }} · {{ draft.data.value.browser }}
          <template v-if="draft.data.value.release"> · release {{ draft.data.value.release }}</template>
        </p>
        <Trouble :error="error" />
        <div class="flex justify-end gap-2">
          <button type="button" class="button" @click="open = false">Cancel</button>
          <button class="button button-main" :disabled="busy">Raise the defect</button>
        </div>
      </form>
    </template>
  </Modal>
</template>
