<script setup lang="ts">
import type { Shapes } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import { vScrolls } from '@/shared/scrolls'

/** Values that would fail for certain: what is wrong with each, before any row is wasted. */
defineProps<{ found: Shapes['DataCheck']; ahead: boolean; fixed: boolean }>()
type Problem = Shapes['CellProblemOut']
const emit = defineEmits<{
  close: []
  run: []
  show: [problem: Problem]
  fix: [problem: Problem, value: string]
}>()
</script>

<template>
  <Modal
    :open="true"
    :title="
      found.problems.length ? 'Values that the fields do not take' : 'Every value fits, as far as is known'
    "
    wide
    @update:open="emit('close')"
  >
    <p v-if="!found.problems.length" class="text-sm text-soft">
      {{ found.rows }} rows were held against the options and limits that the fields had when they were seen
      last.
    </p>
    <ul v-else v-scrolls class="panel max-h-80 overflow-auto text-sm" data-role="data-problems">
      <li
        v-for="(one, place) in found.problems"
        :key="place"
        class="flex items-center border-b border-line last:border-0"
      >
        <button
          class="flex min-w-0 flex-1 gap-3 px-3 py-1 text-left hover:bg-sunk"
          :title="`Go to ${one.column}`"
          @click="emit('show', one)"
        >
          <span class="w-20 shrink-0 text-soft">{{ one.row ? `row ${one.row}` : 'all rows' }}</span>
          <span class="w-24 shrink-0 font-medium wrap-anywhere">{{ one.column }}</span>
          <span class="wrap-anywhere"
            >{{ one.message }} <span class="text-soft">{{ one.hint }}</span></span
          >
        </button>
        <button
          v-if="one.near.length && !fixed"
          class="button mr-2 shrink-0"
          data-role="fix"
          @click="emit('fix', one, one.near[0]!)"
        >
          Use {{ one.near[0] }}
        </button>
      </li>
      <li v-if="found.more" class="px-3 py-1 text-soft">and {{ found.more }} more</li>
    </ul>
    <div class="mt-3 flex justify-end gap-2">
      <button class="button" @click="emit('close')">{{ ahead ? 'Do not run' : 'Close' }}</button>
      <button v-if="ahead" class="button button-main" @click="emit('run')">Run anyway</button>
    </div>
  </Modal>
</template>
