<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useCatalogue } from '@/api/queries'
import { useAct } from '@/shared/acting'
import type { Paged } from '@/shared/lists'

/** Defects by state, moved by dragging or by the keys beside them. */
type Defect = Shapes['DefectBrief']
const props = defineProps<{ defects: Paged<Defect> }>()
const catalogue = useCatalogue()
const states = computed(() => catalogue.data.value?.defect_states ?? [])
const dragged = ref<Defect | null>(null)
const over = ref('')
const { act: move } = useAct(
  ({ defect, state }: { defect: Defect; state: string }) =>
    ask(
      api.PATCH('/api/defects/{id}', {
        params: { path: { id: defect.id } },
        body: { version: defect.version, state },
      }),
    ),
  { stale: [['defects']] },
)
function drop(state: string) {
  const defect = dragged.value
  over.value = ''
  dragged.value = null
  if (defect && defect.state !== state) void move({ defect, state })
}
const of = (state: string) => props.defects.rows.value.filter((one) => one.state === state)
</script>

<template>
  <div>
    <div class="grid gap-3 md:grid-cols-4" data-role="board">
      <section
        v-for="state in states"
        :key="state"
        class="panel min-h-40 p-2"
        :class="over === state && 'border-ink'"
        :aria-label="state"
        @dragover.prevent="over = state"
        @dragleave="over = ''"
        @drop.prevent="drop(state)"
      >
        <h2 class="mb-2 px-1 text-sm font-semibold">
          {{ state }} <span class="font-normal text-soft">{{ of(state).length }}</span>
        </h2>
        <ul class="flex flex-col gap-1.5">
          <li
            v-for="one in of(state)"
            :key="one.id"
            class="rounded-md border border-line bg-sheet p-2 text-sm"
            :draggable="mayChange()"
            :data-defect="one.id"
            @dragstart="dragged = one"
            @dragend="dragged = null"
          >
            <RouterLink
              class="line-clamp-3 font-medium wrap-anywhere hover:underline"
              :to="`/defects/${one.id}`"
              >{{ one.title }}</RouterLink
            >
            <p class="mt-1 flex flex-wrap items-center gap-x-2 text-xs text-soft">
              <span>{{ one.severity }}</span>
              <span v-if="one.priority !== 'normal'">{{ one.priority }}</span>
              <span>{{ one.owner || 'nobody has it' }}</span>
              <select
                v-if="mayChange()"
                class="field ml-auto w-auto py-0 text-xs"
                :value="one.state"
                :aria-label="`State of defect ${one.id}`"
                @change="move({ defect: one, state: ($event.target as HTMLSelectElement).value })"
              >
                <option v-for="other in states" :key="other">{{ other }}</option>
              </select>
            </p>
          </li>
        </ul>
      </section>
    </div>
    <button v-if="defects.more.value" class="button mt-3" @click="defects.next()">More</button>
  </div>
</template>
