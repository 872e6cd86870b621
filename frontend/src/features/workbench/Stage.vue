<script setup lang="ts">
import { Crosshair } from '@lucide/vue'
import { useElementSize, useEventListener, useThrottleFn } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

import { complain } from '@/shared/notes'

import StageDialogBox from './StageDialogBox.vue'
import StageFiles from './StageFiles.vue'
import StageHead from './StageHead.vue'
import StageOptions from './StageOptions.vue'
import { draw } from '@/features/live/drawing'
import { keyMessage, mouseMessage, wheelMessage } from './stageInput'
import { useLive } from '@/features/live/useLive'
import { isAboutRehearsal } from '@/features/rehearsing/useRehearsal'
import type { Rehearsing } from '@/features/rehearsing/useRehearsal'
import type {
  Box,
  Check,
  CheckAs,
  Picked,
  Said,
  StageDialog,
  StageWindow,
  Tried,
} from '@/features/live/useLive'

const props = defineProps<{ path: string; start: string; shine: string }>()
const emit = defineEmits<{
  picked: [Picked]
  checked: []
  still: [page: number]
  verdict: [Extract<Said, { type: 'verdict' }>]
  repicked: [element: object]
  playing: [step: string]
  played: [Extract<Said, { type: 'played' }>]
  proved: [differ: number]
  peeked: [Extract<Said, { type: 'peeked' }>]
  tried: [Tried[]]
  rehearsal: [about: Parameters<Rehearsing['hear']>[0]]
}>()
const recording = defineModel<boolean>('recording', { default: false })
const checking = defineModel<boolean>('checking', { default: false })
/** Pointing at the thing that an element is to be, in place of the one it was. */
const repicking = defineModel<boolean>('repicking', { default: false })
const full = defineModel<boolean>('full', { default: false })
/** Whether the keyboard is the stage's. */
const typing = ref(false)
const pointing = computed(() => checking.value || repicking.value)

const canvas = ref<HTMLCanvasElement | null>(null)
const keys = ref<HTMLTextAreaElement | null>(null)
const place = ref<HTMLElement | null>(null)
const address = ref('')
const windows = ref<StageWindow[]>([])
const dialog = ref<StageDialog | null>(null)
const chooser = ref(false)
const light = ref<{ box: Box; name: string; kind: string } | null>(null)
const shone = ref<Box[]>([])
const list = ref<Extract<Said, { type: 'options' }> | null>(null)
const options = ref<InstanceType<typeof StageOptions> | null>(null)
const blank = ref(false)

const room = useElementSize(place)
/** The window of the stage, in pixels of the page; the station says how large it is. */
const view = ref({ width: 1280, height: 800 })
/** The picture is as large as fits; the window keeps its size whatever the room. */
const scale = computed(
  () => Math.min(room.width.value / view.value.width, room.height.value / view.value.height) || 0.5,
)
const size = computed(() => ({
  width: `${view.value.width * scale.value}px`,
  height: `${view.value.height * scale.value}px`,
}))

const { phase, trouble, send } = useLive(
  props.path,
  (picture) => {
    void draw(canvas.value, picture)
  },
  (said) => {
    if (said.type === 'state') takeState(said)
    else if (said.type === 'recording') recording.value = said.on
    else if (said.type === 'light')
      light.value = pointing.value && said.box ? { ...said, box: said.box } : null
    else if (said.type === 'shine') shone.value = said.boxes
    else if (said.type === 'options') list.value = said
    else if (said.type === 'picked') emit('picked', said)
    else if (said.type === 'checked') emit('checked')
    else if (said.type === 'still') emit('still', said.page)
    else if (said.type === 'peeked') emit('peeked', said)
    else if (said.type === 'tried') emit('tried', said.checks)
    else if (said.type === 'verdict') {
      shone.value = said.boxes
      emit('verdict', said)
    } else if (said.type === 'repicked') emit('repicked', said.element)
    else if (said.type === 'playing') emit('playing', said.step)
    else if (said.type === 'played') emit('played', said)
    else if (said.type === 'proved') emit('proved', said.differ)
    else if (isAboutRehearsal(said)) emit('rehearsal', said)
    else if (said.type === 'error') complain(Object.assign(new Error(`${said.message} ${said.hint}`.trim())))
  },
)

function takeState(said: Extract<Said, { type: 'state' }>) {
  windows.value = said.windows
  dialog.value = said.dialog
  chooser.value = said.chooser
  if (said.viewport) view.value = { width: said.viewport[0], height: said.viewport[1] }
  address.value = said.address === 'about:blank' ? '' : said.address
  blank.value = ['', 'about:blank'].includes(said.address)
}

watch(pointing, () => {
  light.value = null
  shone.value = []
  wider.value = 0
})
/** How many steps wider than what is right under the pointer is meant: cell, row, table, section. */
const wider = ref(0)
const MOST_WIDE = 12
let pointedAt = { x: 0, y: 0 }

function widen(by: number) {
  wider.value = Math.min(Math.max(wider.value + by, 0), MOST_WIDE)
  send({ type: 'point', ...pointedAt, wider: wider.value })
}

/** Keys while pointing, wherever the focus is: Escape always ends it. */
useEventListener(
  'keydown',
  (event: KeyboardEvent) => {
    if (!pointing.value) return
    const step = { ArrowUp: 1, ArrowDown: -1 }[event.key]
    if (event.key === 'Escape') checking.value = repicking.value = false
    else if (step && !(event.target as Element).matches('input,select')) widen(step)
    else return
    event.preventDefault()
    event.stopPropagation()
  },
  { capture: true },
)
watch(
  () => props.shine,
  (element) => (element ? send({ type: 'shine', element }) : (shone.value = [])),
)

function at(event: MouseEvent) {
  const box = canvas.value!.getBoundingClientRect()
  const clamp = (value: number, most: number) => Math.min(Math.max(value, 0), most - 1)
  return {
    x: clamp((event.clientX - box.left) / scale.value, view.value.width),
    y: clamp((event.clientY - box.top) / scale.value, view.value.height),
  }
}

const point = useThrottleFn(
  (event: MouseEvent) => {
    pointedAt = at(event)
    send({ type: 'point', ...pointedAt, wider: wider.value })
  },
  50,
  true,
)
const move = useThrottleFn((event: MouseEvent) => send(mouseMessage('move', event, at(event), 0)), 16, true)

function onMove(event: MouseEvent) {
  if (pointing.value) void point(event)
  else void move(event)
}

function onPress(event: MouseEvent) {
  event.preventDefault()
  keys.value?.focus({ preventScroll: true })
  shone.value = []
  list.value = null // the press that closes it goes on to the page, as everywhere
  if (repicking.value) {
    pickedHere = true
    send({ type: 'repick', ...at(event) })
    repicking.value = false
  } else if (checking.value) send({ type: 'pick', ...at(event), wider: wider.value })
  else send(mouseMessage('down', event, at(event), Math.max(event.detail, 1)))
}

let pickedHere = false
function onRelease(event: MouseEvent) {
  const skip = pickedHere
  pickedHere = false
  if (!pointing.value && !skip) send(mouseMessage('up', event, at(event), Math.max(event.detail, 1)))
}

function onKey(kind: 'down' | 'up', event: KeyboardEvent) {
  if (event.key === 'Escape' && event.shiftKey) {
    keys.value?.blur() // the way out for who uses the keyboard alone
    return
  }
  if (list.value) {
    if (kind === 'down') options.value?.take(event)
    return
  }
  const message = keyMessage(kind, event)
  if (!message) return
  event.preventDefault()
  send(message)
}

function onPaste(event: ClipboardEvent) {
  event.preventDefault()
  send({ type: 'text', text: event.clipboardData?.getData('text/plain') ?? '' })
}

function onCompose(event: CompositionEvent) {
  if (event.type === 'compositionend') {
    send({ type: 'text', text: event.data })
    if (keys.value) keys.value.value = ''
  } else send({ type: 'compose', text: event.data })
}

function open(to: string) {
  send({ type: 'open', address: to })
  void nextTick(() => keys.value?.focus({ preventScroll: true }))
}

function choose(option: string) {
  send({ type: 'choose', handle: list.value!.handle, frame: list.value!.frame, option })
  list.value = null
  keys.value?.focus({ preventScroll: true })
}

function styleOf(box: Box) {
  const px = (value: number) => `${value * scale.value}px`
  return { left: px(box.x), top: px(box.y), width: px(box.width), height: px(box.height) }
}
const record = (on: boolean, after?: string) => send({ type: 'record', on, after })
const addChecks = (checks: Check[], as: CheckAs) => send({ type: 'checks', checks, as })
const lit = (boxes: Box[]) => (shone.value = boxes)
defineExpose({ record, addChecks, send, lit })
</script>

<template>
  <section class="flex min-h-0 flex-col" aria-label="Stage" :data-phase="phase" :data-recording="recording">
    <StageHead
      v-model:full="full"
      :address="address"
      :windows="windows"
      :typing="typing"
      @send="send"
      @open="open"
    />
    <div ref="place" class="relative min-h-0 flex-1 overflow-hidden bg-sunk">
      <div
        class="absolute top-0 left-1/2 -translate-x-1/2 overflow-hidden"
        :class="pointing ? 'cursor-crosshair' : ''"
        :style="size"
        data-role="picture"
        @mousemove="onMove"
        @mousedown="onPress"
        @mouseup="onRelease"
        @contextmenu.prevent
        @wheel.prevent="send(wheelMessage($event, at($event)))"
        @mouseleave="light = null"
      >
        <canvas ref="canvas" class="block size-full" />
        <textarea
          ref="keys"
          class="absolute top-0 left-0 size-px resize-none opacity-0"
          aria-label="Keyboard of the stage. Shift Escape leaves it."
          @focus="typing = true"
          @blur="typing = false"
          @keydown="onKey('down', $event)"
          @keyup="onKey('up', $event)"
          @paste="onPaste"
          @compositionupdate="onCompose"
          @compositionend="onCompose"
        />
        <div v-if="light" class="light pointer-events-none absolute" :style="styleOf(light.box)">
          <span class="tag"
            >{{ light.name }} <small>{{ light.kind }}</small></span
          >
        </div>
        <div
          v-for="(box, number) in shone"
          :key="number"
          class="light pointer-events-none absolute"
          :class="shone.length > 1 && 'many'"
          :style="styleOf(box)"
          data-role="shone"
        />
        <StageOptions ref="options" v-model="list" :style-of="styleOf" :scale="scale" @choose="choose" />
        <StageDialogBox
          v-if="dialog"
          :dialog="dialog"
          @answer="(accept, text) => send({ type: 'dialog', accept, text })"
        />
        <StageFiles v-if="chooser" @give="(files) => send({ type: 'files', files })" />
      </div>
      <p
        v-if="phase !== 'open'"
        class="absolute inset-0 flex items-center justify-center p-6 text-center"
        role="status"
      >
        <span class="panel px-5 py-3">
          <template v-if="phase === 'refused'"
            >{{ trouble.message }} <span class="text-soft">{{ trouble.hint }}</span></template
          >
          <template v-else-if="phase === 'lost'"
            >The connection to the stage was lost; it is taken up again. What was recorded is safe.</template
          >
          <template v-else>Opening the stage…</template>
        </span>
      </p>
      <p v-else-if="blank" class="absolute inset-x-0 top-1/3 flex flex-col items-center gap-3">
        <span class="font-story text-lg text-soft">The stage is empty</span>
        <button class="button button-main" data-role="open-start" @click="open(start)">
          Open {{ start }}
        </button>
      </p>
      <p v-if="pointing" class="pointer-events-none absolute inset-x-0 bottom-2 flex justify-center">
        <span class="chip border-strong-line py-1"
          ><Crosshair :size="13" />
          {{
            repicking
              ? 'Point at what the element is to be and click.'
              : 'Point at what you want to check and click.'
          }}
          ↑ takes in more around it, ↓ less. Escape ends it.</span
        >
      </p>
    </div>
  </section>
</template>

<style scoped>
.light {
  outline: 2px solid var(--lit);
  outline-offset: 2px;
  border-radius: 2px;
  box-shadow: 0 0 0 200rem rgb(25 18 8 / 0.42);
}
.light.many {
  box-shadow: none;
}
.tag {
  position: absolute;
  left: -2px;
  bottom: calc(100% + 4px);
  padding: 1px 8px;
  border-radius: 4px;
  background: var(--lit);
  color: #2b2620;
  font-size: 12px;
  font-weight: 600;
  white-space: nowrap;
}
.tag small {
  font-weight: 400;
}
</style>
