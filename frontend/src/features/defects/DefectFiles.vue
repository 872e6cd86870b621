<script setup lang="ts">
import { Trash2 } from '@lucide/vue'

import { api, ask, mayChange, pictureUrl } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { useAddingFiles } from '@/shared/addingFiles'
import { ago, exact } from '@/shared/times'

/** The files that belong to a defect: pictures are shown, all can be taken out. */
const props = defineProps<{ of: number; files: Shapes['DefectFileOut'][] }>()
const stale = () => [['defect', props.of]]
const path = () => ({ params: { path: { id: props.of } } })
const add = useAddingFiles((body) => ask(api.POST('/api/defects/{id}/files', { ...path(), body })), stale)
const { act: remove } = useAct(
  (name: string) =>
    ask(api.DELETE('/api/defects/{id}/files/{name}', { params: { path: { id: props.of, name } } })),
  { stale },
)
const size = (bytes: number) =>
  bytes < 1024 ? `${bytes} B` : bytes < 1024 ** 2 ? `${Math.round(bytes / 1024)} kB` : `${(bytes / 1024 ** 2).toFixed(1)} MB`
</script>

<template>
  <section v-if="files.length || mayChange()" class="text-sm" aria-label="Files" data-role="defect-files">
    <h2 class="mb-1 font-semibold">Files</h2>
    <ul class="flex flex-col gap-1">
      <li v-for="one in files" :key="one.name" class="flex items-center gap-3">
        <img
          v-if="one.picture"
          class="h-10 w-14 rounded border border-line object-cover"
          :src="pictureUrl(one.digest)"
          :alt="one.name"
        />
        <a class="min-w-0 truncate underline" :href="pictureUrl(one.digest)" :download="one.name">{{ one.name }}</a>
        <span class="shrink-0 text-xs text-soft" :title="exact(one.at)"
          >{{ size(one.size) }}, {{ one.author || 'somebody' }} {{ ago(one.at) }}</span
        >
        <button
          v-if="mayChange()"
          class="button-bare ml-auto"
          :aria-label="`Remove ${one.name}`"
          @click="remove(one.name)"
        >
          <Trash2 :size="14" />
        </button>
      </li>
    </ul>
    <label v-if="mayChange()" class="mt-1 block max-w-sm"
      ><span class="sr-only">Add files</span>
      <input type="file" multiple class="field mt-1" aria-label="Add files" @change="add"
    /></label>
  </section>
</template>
