<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { vScrolls } from '@/shared/scrolls'

/** Another name for a variable, with all places that will use it shown first. */
const props = defineProps<{ name: string }>()
const emit = defineEmits<{ close: [] }>()

const fresh = ref(props.name)
const uses = useQuery({
  queryKey: computed(() => ['variable', props.name]),
  queryFn: () => ask(api.GET('/api/variables', { params: { query: { name: props.name } } })),
})

const { act: rename, trouble } = useAct(
  () => ask(api.POST('/api/variables/rename', { body: { old: props.name, new: fresh.value } })),
  {
    inPlace: true,
    done: () => {
      say(`“${props.name}” is “${fresh.value}” everywhere now.`)
      emit('close')
    },
  },
)
</script>

<template>
  <Modal :open="true" :title="`Rename the variable “${name}”`" @update:open="emit('close')">
    <form class="flex flex-col gap-3 text-sm" @submit.prevent="rename()">
      <label>New name <input v-model="fresh" class="field mt-1" name="variable" required /></label>
      <ul v-if="uses.data.value" v-scrolls class="max-h-48 overflow-auto" data-role="variable-uses">
        <li v-for="one in uses.data.value.tests" :key="one.id">
          {{ one.name }}<span class="text-soft">, sentence {{ one.sentences.join(', ') }}</span>
        </li>
        <li v-for="one in uses.data.value.elements" :key="one">
          {{ one }} <span class="text-soft">element</span>
        </li>
        <li v-if="!uses.data.value.tests.length && !uses.data.value.elements.length" class="text-soft">
          Nothing uses it yet.
        </li>
      </ul>
      <p class="text-soft">It gets the new name in every environment, and in all of these at once.</p>
      <Trouble :error="trouble" />
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button class="button button-main" :disabled="fresh === name">Rename</button>
      </div>
    </form>
  </Modal>
</template>
