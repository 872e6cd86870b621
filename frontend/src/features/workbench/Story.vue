<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { pictureUrl } from '@/api/client'
import { others } from '@/api/presence'
import type { Catalogue, Result, Step, Test } from '@/api/client'
import Draft from '@/shared/Draft.vue'
import Near from '@/shared/Near.vue'
import Picture from '@/shared/Picture.vue'

import PausesStrip from './PausesStrip.vue'
import ProofStrip from './ProofStrip.vue'
import Sentence from './Sentence.vue'
import StoryHead from './StoryHead.vue'
import SweepIdle from './SweepIdle.vue'
import Thumbnail from './Thumbnail.vue'
import Deed from '@/features/rehearsing/Deed.vue'
import FlowInPlace from '@/features/rehearsing/FlowInPlace.vue'
import LineStart from '@/features/rehearsing/LineStart.vue'
import { leadsTo, nameOf, roundsAt, roundsOf } from '@/features/rehearsing/places'
import type { Breakpoints } from '@/features/rehearsing/useBreakpoints'
import type { Rehearsing } from '@/features/rehearsing/useRehearsal'
import { waitsFor } from '@/features/editing/pending'
import type { Edits } from '@/features/editing/useEdits'
import { SENTENCE, useStory } from './useStory'
import { useStoryTools } from './useStoryTools'

/** The sentences of a test, read like a document, with outcomes in the margin. */
const props = defineProps<{
  test: Test
  catalogue: Catalogue
  edits: Edits
  fixed: boolean
  recording: boolean
  results: Result[]
  running: string
  rehearsing: Rehearsing
  breakpoints: Breakpoints
}>()
const emit = defineEmits<{
  split: [step: string]
  edit: [element: string]
  recordFrom: [step: string]
  recordInPlace: [steps: string[]]
  playTo: [step: string]
  sweep: []
  tryWithout: [steps: string[]]
  prove: []
  makeFlow: [steps: string[]]
  putBack: [step: string]
}>()
const chosen = defineModel<string[]>('chosen', { default: () => [] })

const list = ref<HTMLElement | null>(null)
const preview = ref<{ step: Step; top: number; right: number } | null>(null)
const dragged = ref('')
function onDrop(event: DragEvent, step: string) {
  const given = event.dataTransfer?.getData(SENTENCE)
  if (given) story.dropNew(given, step)
  else story.drop(dragged.value, step)
  dragged.value = ''
}
const story = useStory(
  () => props.test,
  () => props.catalogue,
  () => props.edits,
  chosen,
)
const { byId, order, choose, shift, level, copy, remove } = story
/** Choose a sentence of this story, unless one of a flow that is open in it is meant. */
function chooseOwn(id: string, event: MouseEvent) {
  if ((event.target as Element).closest('[data-role=flow-in-place]')) return
  props.rehearsing.aim(null)
  choose(id, event)
}
/** What came of a sentence, in a run or in a rehearsal. */
type Mark = Pick<Result, 'outcome' | 'message' | 'picture' | 'thing' | 'contrary'>
const spot = computed(() => props.rehearsing.spot.value)
/** Whether the rehearsal is at a sentence of this story itself, and whether it is held there. */
const at = (step: Step) => {
  if (!spot.value || spot.value.calls.length || spot.value.step !== step.id) return ''
  return props.rehearsing.held.value ? 'held' : 'playing'
}
const rounds = computed(() => {
  const here = spot.value?.calls[0] ?? spot.value?.step ?? ''
  return roundsOf(props.test.steps, here, roundsAt(spot.value?.within ?? [], 0))
})
watch(
  () => props.rehearsing.state.value?.moment,
  async () => {
    await nextTick()
    list.value
      ?.querySelector(':scope > section > ol > li > [data-at=held]')
      ?.scrollIntoView({ block: 'center' })
  },
)
/** The last outcome of each sentence; one that failed in any round stays. */
const outcomes = computed(() => {
  const found = new Map<string, Mark>()
  if (props.rehearsing.there.value) {
    for (const step of props.test.steps) {
      const mark = props.rehearsing.marks.value.get(nameOf({ calls: [], step: step.id }))
      if (mark) found.set(step.id, { ...mark, picture: '' })
    }
    return found
  }
  for (const result of props.results)
    if (found.get(result.step_id)?.outcome !== 'failed') found.set(result.step_id, result)
  return found
})
const scenes = computed(() =>
  props.test.scenes.map((scene) => {
    const steps = scene.steps.flatMap((id) => byId.value.get(id) ?? [])
    return { page: scene.page, steps, picture: steps.find((step) => step.picture)?.picture ?? '' }
  }),
)
const noting = ref('')
const note = (step: Step, fields: { title?: string; comment?: string }) =>
  props.edits.edit({ do: 'change', step: step.id, fields })
const pick = (step: Step, input: string, value: string) =>
  props.edits.edit({ do: 'change', step: step.id, fields: { inputs: { [input]: value } } })
const number = (id: string) => order.value.indexOf(id) + 1

watch(
  () => props.test.steps.length,
  async (now, before) => {
    chosen.value = chosen.value.filter((id) => byId.value.has(id))
    if (now <= before || !props.recording) return
    await nextTick()
    list.value?.scrollTo({ top: list.value.scrollHeight })
  },
)

/** Where a run failed is what one wants to see next. */
const failed = computed(
  () => props.results.find((one) => one.outcome === 'failed' && byId.value.has(one.step_id))?.step_id,
)
watch(failed, async (step) => {
  if (!step || props.recording) return
  await nextTick()
  list.value?.querySelector(`[data-step="${CSS.escape(step)}"]`)?.scrollIntoView({ block: 'center' })
})

const router = useRouter()
const tools = useStoryTools(chosen, story, {
  canProve: () => props.test.steps.length > 1,
  canBeBlind: () => props.test.kind === 'test',
  showBlind: () => void router.push(`/tests/${props.test.id}/blind-spots`),
  edits: () => props.edits,
  note: (id) => (noting.value = noting.value === id ? '' : id),
  split: (id) => emit('split', id),
  makeFlow: (ids) => emit('makeFlow', ids),
  playTo: (id) => emit('playTo', id),
  prove: () => emit('prove'),
  recordFrom: (id) => emit('recordFrom', id),
  recordInPlace: (ids) => emit('recordInPlace', ids),
  rehearseFrom: (id) => void props.rehearsing.fromHere({ calls: [], step: id }),
  breakAt: (ids) => ids.forEach((id) => props.breakpoints.toggle(props.test.id, id)),
})

function onKey(event: KeyboardEvent) {
  if ((event.target as HTMLElement).closest('input,select,textarea') || props.fixed) return
  const place = order.value.indexOf(chosen.value.at(-1) ?? '')
  const go = (to: number) => {
    const id = order.value[Math.min(Math.max(to, 0), order.value.length - 1)]
    if (id) {
      choose(id, event)
      list.value?.querySelector<HTMLElement>(`[data-step="${id}"]`)?.focus()
    }
  }
  const command = event.ctrlKey || event.metaKey
  if (event.key === 'ArrowDown' && event.altKey) shift(1)
  else if (event.key === 'ArrowUp' && event.altKey) shift(-1)
  else if (event.key === 'ArrowRight' && event.altKey) void level(1)
  else if (event.key === 'ArrowLeft' && event.altKey) void level(-1)
  else if (event.key === 'ArrowDown') go(place + 1)
  else if (event.key === 'ArrowUp') go(place - 1)
  else if (event.key === 'Delete') void remove()
  else if (event.key.toLowerCase() === 'b' && !command && !event.altKey)
    for (const id of chosen.value) props.breakpoints.toggle(props.test.id, id)
  else if (command && event.key === 'd') void copy()
  else if (command && event.key === 'z' && !event.shiftKey) void props.edits.undo()
  else if ((command && event.key === 'y') || (command && event.shiftKey && event.key.toLowerCase() === 'z'))
    void props.edits.redo()
  else return
  event.preventDefault()
}

function show(step: Step, event: MouseEvent) {
  if (step.picture)
    preview.value = {
      step,
      right: window.innerWidth - (list.value?.getBoundingClientRect().left ?? 0) + 8,
      top: Math.min(
        (event.currentTarget as HTMLElement).getBoundingClientRect().top,
        window.innerHeight - (outcomes.value.get(step.id)?.picture ? 560 : 320),
      ),
    }
}
</script>

<template>
  <section class="flex min-h-0 min-w-0 flex-col bg-paper" aria-label="Story" @keydown="onKey">
    <StoryHead
      v-if="!fixed"
      :test="test"
      :catalogue="catalogue"
      :edits="edits"
      :story="story"
      :tools="tools"
    />
    <ProofStrip
      :test="test"
      :fixed="fixed"
      :recording="recording"
      :busy="!!running"
      @prove="emit('prove')"
      @choose="chosen = [$event]"
    />
    <SweepIdle
      v-if="!fixed"
      :test="test"
      :busy="!!running"
      @sweep="emit('sweep')"
      @try-without="emit('tryWithout', $event)"
    />
    <PausesStrip v-if="!fixed" :test="test" :edits="edits" />
    <div ref="list" class="min-h-0 flex-1 overflow-auto pb-40" data-role="story">
      <div v-if="test.steps.length === 0" class="px-8 py-12 text-center text-soft">
        <p class="mb-2 font-story text-lg text-ink">The story is still empty</p>
        <p v-if="recording">
          Use the application on the stage: each thing that you do becomes a sentence here.
        </p>
        <p v-else-if="fixed">Nobody has recorded anything here yet.</p>
        <p v-else>Press Record, then use the application on the stage. Or add a sentence by hand.</p>
      </div>
      <section v-for="(scene, place) in scenes" :key="place" class="mt-4" :aria-label="scene.page || 'Start'">
        <h2 class="mb-1 flex items-center gap-2 px-4 text-xs font-semibold text-soft">
          <img
            v-if="scene.picture"
            :src="pictureUrl(scene.picture)"
            alt=""
            class="h-7 rounded-sm border border-line"
          />
          {{ scene.page || 'Before the first page' }}
        </h2>
        <ol>
          <li
            v-for="step in scene.steps"
            :key="step.id"
            class="group grid grid-cols-[2.1rem_1.5rem_1fr_auto] items-baseline gap-x-1.5 border-l-4 px-2 py-0.5 outline-none"
            :class="[
              chosen.includes(step.id) ? 'border-lit bg-lit-paper' : 'border-transparent hover:bg-sunk',
              step.id === running && 'border-lit',
            ]"
            :data-step="step.id"
            :data-action="step.action"
            :data-depth="step.depth"
            :aria-current="chosen.includes(step.id)"
            tabindex="0"
            :draggable="!fixed"
            @click.capture="chooseOwn(step.id, $event)"
            @dragstart="dragged = step.id"
            @dragover.prevent
            @drop.prevent="onDrop($event, step.id)"
          >
            <LineStart
              :number="number(step.id)"
              :place="test.id"
              :step="step.id"
              :breakpoints="breakpoints"
              :fixed="fixed"
              :outcome="outcomes.get(step.id)?.outcome ?? (step.id === running ? 'running' : '')"
              :at="at(step)"
            />
            <div
              class="relative min-w-0"
              :class="step.depth ? 'border-l border-line' : ''"
              :style="step.depth ? { marginLeft: `${step.depth * 1.1 - 0.6}rem`, paddingLeft: '0.5rem' } : {}"
            >
              <p v-if="step.title" class="text-sm font-semibold wrap-anywhere" data-role="title">
                {{ step.title }}
              </p>
              <Sentence
                :step="step"
                :test="test"
                :catalogue="catalogue"
                :edits="edits"
                :fixed="fixed"
                @edit="emit('edit', $event)"
                @put-back="emit('putBack', step.id)"
              />
              <span
                v-for="one in others.filter((other) => other.at === step.id)"
                :key="one.who"
                class="ml-2 border-l-2 border-lit pl-1.5 text-xs text-soft"
                data-role="other-here"
                >{{ one.name }} is here</span
              >
              <span
                v-if="waitsFor(edits.waiting.value, step.id)"
                class="unsaved ml-2 inline-block rounded px-1.5 text-xs whitespace-nowrap text-soft"
                data-role="waits"
                >{{ waitsFor(edits.waiting.value, step.id) }}</span
              >
              <span v-if="rounds.get(step.id)" class="chip ml-1" data-role="round">{{
                rounds.get(step.id)
              }}</span>
              <span v-if="step.idle" class="chip ml-1" title="Nothing happened on the page">did nothing</span>
              <Near
                v-for="one in step.problems"
                :key="one.input + one.message"
                :wrong="[one]"
                class="my-1"
                data-role="sentence-problem"
                @pick="(value) => !fixed && pick(step, one.input, value)"
              />
              <p
                v-if="step.warning && !outcomes.get(step.id)?.contrary"
                class="text-xs text-odd"
                data-role="warning"
              >
                {{ step.warning }}
              </p>
              <p v-if="step.comment" class="text-sm whitespace-pre-line text-soft wrap-anywhere">
                {{ step.comment }}
              </p>
              <div v-if="noting === step.id && !fixed" class="my-1 flex flex-col gap-1" @click.stop>
                <Draft
                  class="field"
                  :value="step.title"
                  :keep="`title ${step.id}`"
                  placeholder="A title of your own"
                  aria-label="Title of the sentence"
                  @save="note(step, { title: $event })"
                />
                <Draft
                  class="field"
                  :value="step.comment"
                  :keep="`comment ${step.id}`"
                  :lines="2"
                  placeholder="A comment"
                  aria-label="Comment on the sentence"
                  @save="note(step, { comment: $event })"
                />
              </div>
              <span v-if="!step.enabled" class="ml-1 text-xs text-soft">switched off</span>
              <span
                v-if="
                  step.holds.limit_from !== 'the test' &&
                  step.holds.limit_from !== 'the project' &&
                  step.action !== 'flow'
                "
                class="ml-1 text-xs text-soft"
                :title="`As ${step.holds.limit_from} says`"
                >up to {{ step.holds.limit }} s</span
              >
              <span v-if="step.holds.retries" class="ml-1 text-xs text-soft"
                >{{ step.holds.retries }} more {{ step.holds.retries === 1 ? 'try' : 'tries' }}</span
              >
              <Deed
                v-if="outcomes.get(step.id)"
                :thing="rehearsing.there.value ? outcomes.get(step.id)!.thing : ''"
                :contrary="outcomes.get(step.id)!.contrary"
                :called-so="step.parts.some((part) => part.text.includes(outcomes.get(step.id)!.thing))"
              />
              <p v-if="outcomes.get(step.id)?.outcome === 'failed'" class="text-sm text-bad wrap-anywhere">
                {{ outcomes.get(step.id)!.message }}
              </p>
              <FlowInPlace
                v-if="step.flow && leadsTo(spot, { calls: [], step: step.id })"
                :flow="step.flow"
                :calls="[step.id]"
                :rehearsing="rehearsing"
                :breakpoints="breakpoints"
              />
            </div>
            <Thumbnail
              v-if="step.picture"
              class="ml-2 self-center"
              :digest="step.picture"
              :box="step.box"
              @mouseenter="show(step, $event)"
              @mouseleave="preview = null"
            />
          </li>
        </ol>
      </section>
    </div>
    <div
      v-if="preview"
      class="floating pointer-events-none fixed w-96 p-1"
      :style="{ top: `${preview.top}px`, right: `${preview.right}px` }"
    >
      <p class="px-1 text-xs text-soft">When it was recorded</p>
      <Picture :digest="preview.step.picture" :box="preview.step.box" alt="When it was recorded" />
      <template v-if="outcomes.get(preview.step.id)?.picture">
        <p class="px-1 pt-1 text-xs text-soft">When it was played</p>
        <Picture :digest="outcomes.get(preview.step.id)!.picture" alt="When it was played" />
      </template>
    </div>
  </section>
</template>
