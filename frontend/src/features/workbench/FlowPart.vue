<script setup lang="ts">
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { computed } from 'vue'

import type { Step, Test } from '@/api/client'

import { intoView } from '@/shared/intoView'

import type { Edits } from '@/features/editing/useEdits'

/** The flow that a sentence calls: where it is, what else it takes, and its sentences again. */
const props = defineProps<{ text: string; step: Step; test: Test; edits: Edits; fixed: boolean }>()
defineEmits<{ putBack: [] }>()

const flow = computed(() => props.test.flows.find((one) => one.id === props.step.flow))
const missing = computed(() => flow.value?.takes.filter((one) => !(one.name in props.step.inputs)) ?? [])

function give(name: string, value: string) {
  const inputs = { [name]: value }
  void props.edits.edit({ do: 'change', step: props.step.id, fields: { inputs } })
}
</script>

<template>
  <Popover v-slot="{ close }" as="span">
    <PopoverButton
      class="rounded px-1 font-semibold underline decoration-dotted hover:bg-sunk"
      data-role="flow"
      >{{ text }}</PopoverButton
    >
    <PopoverPanel
      class="floating absolute top-full left-0 flex w-72 flex-col gap-2 p-3 font-sans text-sm"
      @vue:mounted="intoView"
    >
      <p v-if="!flow" class="text-bad">This flow was deleted.</p>
      <template v-else>
        <RouterLink class="button" :to="`/${flow.in_python ? 'code' : 'tests'}/${flow.id}`"
          >Open the flow</RouterLink
        >
        <p v-if="flow.gives.length" class="text-soft">
          Gives
          <code v-for="one in flow.gives" :key="one" class="mr-1">{{ '${kept.' + one + '}' }}</code>
        </p>
        <p v-if="missing.length && !fixed" class="text-soft">
          Takes its own value for
          <button
            v-for="one in missing"
            :key="one.name"
            class="chip mr-1 hover:border-ink"
            @click="(give(one.name, one.default), close())"
          >
            {{ one.name }}
          </button>
        </p>
        <button
          v-if="!fixed && !flow.in_python"
          class="button"
          data-role="put-back"
          @click="($emit('putBack'), close())"
        >
          Put its sentences back here
        </button>
      </template>
    </PopoverPanel>
  </Popover>
</template>
