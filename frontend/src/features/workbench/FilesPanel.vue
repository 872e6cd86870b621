<script setup lang="ts">
import { Trash2 } from '@lucide/vue'
import { computed } from 'vue'

import { api, ask, pictureUrl } from '@/api/client'
import { useFiles } from '@/api/queries'
import { useAct } from '@/shared/acting'
import { useAddingFiles } from '@/shared/addingFiles'

/** The files that this test gives to pages. */
const props = defineProps<{ test: number; fixed: boolean }>()
const files = useFiles(computed(() => props.test))
const path = computed(() => ({ params: { path: { id: props.test } } }))

const stale = () => [['files', props.test]]
const add = useAddingFiles((body) => ask(api.POST('/api/tests/{id}/files', { ...path.value, body })), stale)
const { act: remove } = useAct(
  (name: string) =>
    ask(api.DELETE('/api/tests/{id}/files/{name}', { params: { path: { id: props.test, name } } })),
  { stale },
)
</script>

<template>
  <div class="flex h-full flex-col gap-2 overflow-auto px-4 py-2 text-sm" data-role="files">
    <ul v-if="files.data.value?.files.length">
      <li v-for="file in files.data.value.files" :key="file.name" class="flex items-center gap-3 py-0.5">
        <a class="underline" :href="pictureUrl(file.digest)" :download="file.name">{{ file.name }}</a>
        <span class="text-soft">{{ file.size }} bytes</span>
        <button
          v-if="!fixed"
          class="button-bare"
          :aria-label="`Remove ${file.name}`"
          @click="remove(file.name)"
        >
          <Trash2 :size="14" />
        </button>
      </li>
    </ul>
    <p v-else class="text-soft">
      No file is kept with this test. One that you give to the page while recording is kept here.
    </p>
    <label v-if="!fixed" class="max-w-sm"
      >Add a file <input type="file" multiple class="field mt-1" @change="add"
    /></label>
  </div>
</template>
