<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { mayChange, pictureUrl } from '@/api/client'
import type { Result, Shapes } from '@/api/client'
import Outcome from '@/shared/Outcome.vue'
import { seconds } from '@/shared/times'

import Comments from '@/features/comments/Comments.vue'
import Pieces from '@/features/review/Pieces.vue'
import VerdictPart from '@/features/review/VerdictPart.vue'
import ThenAndNow from '@/features/review/ThenAndNow.vue'
import Repairs from './Repairs.vue'
import WhyResult from './WhyResult.vue'
import { vScrolls } from '@/shared/scrolls'

const props = defineProps<{
  result: Result
  defect?: Shapes['DefectLink']
  suspects?: Shapes['StepChangeOut'][]
}>()
defineEmits<{ raise: [] }>()

const box = computed(() => {
  const at = props.result.box
  if (!at) return null
  return [at.x, at.y, at.width, at.height]
})
const lit = ref<Record<string, number>[]>([])
watch(
  () => props.result.id,
  () => (lit.value = []),
)
/** What the picture lights: what an answer is about, else what the sentence was about. */
const lighted = computed(() => {
  const one = lit.value[0]
  return one ? [one.x, one.y, one.width, one.height].map(Number) : box.value
})
const failed = computed(() => props.result.outcome === 'failed')
const repairable = computed(() => ['not found', 'found several'].includes(props.result.reason))
const searchable = computed(() => ['not found', 'found several', 'not ready'].includes(props.result.reason))
const differs = computed(() => failed.value && Boolean(props.result.expected))
</script>

<template>
  <article class="flex flex-col gap-3">
    <header>
      <p v-if="result.title" class="font-semibold wrap-anywhere" data-role="title">{{ result.title }}</p>
      <p class="font-story text-lg leading-snug wrap-anywhere">{{ result.sentence }}</p>
      <p
        v-if="result.comment"
        class="text-sm whitespace-pre-line text-soft wrap-anywhere"
        data-role="comment"
      >
        {{ result.comment }}
      </p>
      <p v-if="result.contrary" class="text-sm text-odd wrap-anywhere" data-role="contrary">
        {{ result.contrary }}
      </p>
      <p class="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
        <Outcome :outcome="result.outcome" />
        <span v-if="result.outcome !== 'skipped'" class="text-soft">
          {{ seconds(result.used) }} of {{ result.limit }} s
        </span>
        <span v-if="result.reason" class="chip">{{ result.reason }}</span>
        <RouterLink v-if="defect" :to="`/defects/${defect.id}`" class="underline">
          {{ defect.known ? 'Known as defect' : 'Defect' }} {{ defect.id }}: {{ defect.state }}
        </RouterLink>
        <button
          v-if="failed && (!defect || defect.known) && mayChange()"
          class="button ml-auto"
          @click="$emit('raise')"
        >
          Raise a defect
        </button>
      </p>
    </header>
    <div
      v-if="result.message"
      class="rounded-md border px-3 py-2"
      :class="failed ? 'border-bad bg-bad-paper' : 'border-line'"
    >
      <p class="wrap-anywhere" data-role="message">{{ result.message }}</p>
      <p v-if="result.hint" class="mt-1 text-soft">{{ result.hint }}</p>
    </div>
    <section v-if="failed && suspects?.length" class="panel px-3 py-2 text-sm" data-role="suspects">
      <p class="mb-1 font-semibold">Changed since the baseline, and played before this failed</p>
      <ul>
        <li v-for="one in suspects" :key="one.step + one.what" class="flex gap-2">
          <span class="w-16 shrink-0 text-soft">{{ one.what }}</span>
          <span class="font-story wrap-anywhere">
            <template v-if="one.before && one.before !== one.after"
              ><span class="text-soft line-through">{{ one.before }}</span> </template
            >{{ one.after }}
          </span>
        </li>
      </ul>
    </section>
    <dl v-if="differs" class="grid grid-cols-2 gap-3">
      <div class="panel px-3 py-2">
        <dt class="text-xs text-soft">Expected</dt>
        <dd class="font-story text-lg wrap-anywhere" data-role="expected">
          <Pieces v-if="result.difference" :pieces="result.difference.expected" />
          <template v-else>{{ result.expected }}</template>
        </dd>
      </div>
      <div class="panel px-3 py-2">
        <dt class="text-xs text-soft">Found</dt>
        <dd class="font-story text-lg wrap-anywhere" data-role="found">
          <Pieces v-if="result.difference" :pieces="result.difference.found" />
          <template v-else>{{ result.found || '(nothing)' }}</template>
        </dd>
      </div>
    </dl>
    <p v-if="differs && result.difference?.told" class="-mt-1 text-sm" data-role="difference">
      {{ result.difference.told }}
    </p>
    <VerdictPart v-if="failed" :key="`verdict ${result.id}`" :result="result.id" />
    <p v-if="result.late" class="text-sm text-odd" data-role="late">{{ result.late }}</p>
    <ThenAndNow
      v-if="result.picture"
      :result="result.id"
      :picture="result.picture"
      :box="lighted"
      :sentence="result.sentence"
    />
    <p v-else-if="result.freed" class="text-soft" data-role="freed">
      Its picture is gone: the rules for keeping freed it.
    </p>
    <ul v-if="result.files.length" class="flex flex-wrap gap-2" aria-label="Files">
      <li v-for="file in result.files" :key="file.digest">
        <a class="button" :href="pictureUrl(file.digest)" :download="file.name"
          >{{ file.name }} <span class="text-soft">{{ file.size }} bytes</span></a
        >
      </li>
    </ul>
    <WhyResult
      v-if="failed && searchable"
      :key="`why ${result.id}`"
      :result="result.id"
      :step="result.step_id"
      @lit="lit = $event"
      @defect="$emit('raise')"
    />
    <Repairs v-if="failed && repairable" :key="result.id" :result="result.id" />
    <details v-for="(lookup, place) in result.lookups" :key="place" class="panel px-3 py-2" :open="failed">
      <summary class="cursor-pointer text-sm">
        How “{{ lookup.element }}” was looked for:
        {{ lookup.found === 1 ? 'found it' : `found ${lookup.found}` }}
      </summary>
      <ul class="mt-2 text-sm">
        <li class="text-soft">{{ lookup.looked_at }} things on the page could be a {{ lookup.kind }}</li>
        <li v-for="clue in lookup.clues" :key="clue.clue" class="flex gap-3">
          <span class="wrap-anywhere">{{ clue.clue }}</span>
          <span class="ml-auto shrink-0 text-soft">{{
            clue.held_by ? `held by ${clue.held_by}` : 'held by none'
          }}</span>
        </li>
      </ul>
    </details>
    <details v-if="result.console.length" class="panel px-3 py-2" :open="failed">
      <summary class="cursor-pointer text-sm">
        Errors in the page's console ({{ result.console.length }})
      </summary>
      <pre v-scrolls class="mt-2 overflow-auto text-xs wrap-anywhere whitespace-pre-wrap">{{
        result.console.join('\n')
      }}</pre>
    </details>
    <details v-if="result.requests.length" class="panel px-3 py-2" :open="failed">
      <summary class="cursor-pointer text-sm">
        Requests of the page that failed ({{ result.requests.length }})
      </summary>
      <pre v-scrolls class="mt-2 overflow-auto text-xs wrap-anywhere whitespace-pre-wrap">{{
        result.requests.join('\n')
      }}</pre>
    </details>
    <Comments place="sentence" :of="result.id" />
  </article>
</template>
