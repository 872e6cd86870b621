<script setup lang="ts">
/** The line before a part whose size can be drawn; the arrow keys draw it too, Home gives it back. */
const props = defineProps<{ label: string; size: number; least: number; most: number; across?: boolean }>()
const emit = defineEmits<{ size: [pixels: number]; usual: [] }>()

const STEP = 24
const within = (size: number) => Math.round(Math.min(Math.max(size, props.least), props.most))

function draw(event: PointerEvent) {
  const line = event.currentTarget as HTMLElement
  const place = (one: PointerEvent) => (props.across ? one.clientY : one.clientX)
  const [from, size] = [place(event), props.size]
  const move = (one: PointerEvent) => emit('size', within(size + from - place(one)))
  const end = () => line.removeEventListener('pointermove', move)
  line.setPointerCapture(event.pointerId)
  line.addEventListener('pointermove', move)
  line.addEventListener('lostpointercapture', end, { once: true })
  event.preventDefault()
}

function onKey(event: KeyboardEvent) {
  const by = { ArrowLeft: 1, ArrowUp: 1, ArrowRight: -1, ArrowDown: -1 }[event.key]
  if (by) emit('size', within(props.size + by * STEP))
  else if (event.key === 'Home') emit('usual')
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    role="separator"
    tabindex="0"
    class="group relative z-10 shrink-0 touch-none outline-none"
    :class="across ? 'h-px cursor-row-resize' : 'w-px cursor-col-resize'"
    :aria-label="label"
    :aria-orientation="across ? 'horizontal' : 'vertical'"
    :aria-valuenow="Math.round(size)"
    :aria-valuemin="least"
    :aria-valuemax="most"
    title="Draw it to the size you like; press it twice for the usual one"
    @pointerdown="draw"
    @dblclick="emit('usual')"
    @keydown="onKey"
  >
    <span
      class="absolute bg-line group-hover:bg-lit group-focus-visible:bg-lit"
      :class="
        across
          ? 'inset-x-0 top-0 h-px group-hover:h-[3px] group-hover:-translate-y-px group-focus-visible:h-[3px]'
          : 'inset-y-0 left-0 w-px group-hover:w-[3px] group-hover:-translate-x-px group-focus-visible:w-[3px]'
      "
    />
    <span class="absolute" :class="across ? 'inset-x-0 -top-1 h-2.5' : 'inset-y-0 -left-1 w-2.5'" />
  </div>
</template>
