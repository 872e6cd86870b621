<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import { useAct } from '@/shared/acting'
import { complain, say } from '@/shared/notes'

interface Input {
  name: string
  template: string
  needed: boolean
  on: boolean
}
interface Place {
  id: number
  name: string
  sentences: number[]
  on: boolean
}

/** Making a flow of sentences: its name, what it takes and gives, and where else they stand. */
const props = defineProps<{ test: Test; steps: string[] }>()
const emit = defineEmits<{ done: [] }>()
const queries = useQueryClient()

const name = ref('')
const inputs = ref<Input[]>([])
const outputs = ref<{ name: string; on: boolean }[]>([])
const count = ref(0)
const places = ref<Place[]>([])
const flow = ref('')

watch(
  () => props.steps,
  async (steps) => {
    if (!steps.length) return
    name.value = flow.value = ''
    places.value = []
    try {
      const cut = await ask(
        api.POST('/api/tests/{id}/cut', { params: { path: { id: props.test.id } }, body: { steps } }),
      )
      count.value = cut.steps
      inputs.value = cut.takes.map((one) => ({ ...one, on: one.needed }))
      outputs.value = cut.gives.map((one) => ({ name: one, on: true }))
    } catch (error) {
      complain(error)
      emit('done')
    }
  },
  { immediate: true },
)

const making = useAct(
  () =>
    ask(
      api.POST('/api/tests/{id}/extract', {
        params: { path: { id: props.test.id } },
        body: {
          base: props.test.version,
          steps: props.steps,
          name: name.value,
          takes: Object.fromEntries(
            inputs.value.filter((one) => one.on).map((one) => [one.name.trim(), one.template]),
          ),
          gives: outputs.value.filter((one) => one.on).map((one) => one.name),
        },
      }),
    ),
  {
    stale: [['flows']],
    done: (made) => {
      queries.setQueryData(['test', props.test.id], made.test)
      flow.value = made.flow
      places.value = made.alike.map((one) => ({ ...one, on: true }))
      if (!places.value.length) close()
    },
  },
)
const make = () => making.act()
const replacing = useAct(
  (tests: number[]) =>
    ask(
      api.POST('/api/flows/{id}/replace', {
        params: { path: { id: Number(flow.value) } },
        body: { tests },
      }),
    ),
  { stale: [['tests'], ['test']], done: close },
)
function replaceElsewhere() {
  const tests = places.value.filter((one) => one.on).map((one) => one.id)
  if (tests.length) void replacing.act(tests)
  else close()
}
function close() {
  if (flow.value) say(`The flow “${name.value}” was made.`)
  emit('done')
}
</script>

<template>
  <Modal
    :open="steps.length > 0"
    :title="flow ? 'The same sentences elsewhere' : 'Make a flow'"
    @update:open="close"
  >
    <form v-if="!flow" class="flex flex-col gap-3 text-sm" @submit.prevent="make">
      <p class="text-soft">
        {{ count === 1 ? 'One sentence becomes' : `${count} sentences become` }} a flow; this test calls it in
        their place.
      </p>
      <label>Its name <input v-model="name" class="field mt-1" required name="flow" maxlength="200" /></label>
      <fieldset v-if="inputs.length">
        <legend class="mb-1 font-semibold">What it takes</legend>
        <div v-for="one in inputs" :key="one.template" class="mb-1 flex items-center gap-2">
          <input
            v-model="one.on"
            type="checkbox"
            :disabled="one.needed"
            :aria-label="`${one.template} as an input`"
          />
          <input
            v-model="one.name"
            class="field w-40"
            :disabled="!one.on"
            :aria-label="`Name for ${one.template}`"
          />
          <span class="min-w-0 truncate text-soft" :title="one.template">for {{ one.template }}</span>
        </div>
        <p class="text-xs text-soft">What is not ticked stays as it is inside the flow.</p>
      </fieldset>
      <fieldset v-if="outputs.length">
        <legend class="mb-1 font-semibold">What it gives back</legend>
        <label v-for="one in outputs" :key="one.name" class="flex items-center gap-2"
          ><input v-model="one.on" type="checkbox" /> {{ one.name }}</label
        >
      </fieldset>
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="emit('done')">Cancel</button>
        <button class="button button-main">Make the flow</button>
      </div>
    </form>
    <form v-else class="flex flex-col gap-3 text-sm" @submit.prevent="replaceElsewhere">
      <p class="text-soft">The same sentences stand in these; call the flow there too?</p>
      <label v-for="one in places" :key="one.id" class="flex items-center gap-2">
        <input v-model="one.on" type="checkbox" /> {{ one.name }}
        <span class="text-soft">from sentence {{ one.sentences.join(', ') }} on</span>
      </label>
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="close">Leave them</button>
        <button class="button button-main">Call it there too</button>
      </div>
    </form>
  </Modal>
</template>
