<script setup lang="ts">
import { complain } from '@/shared/notes'
import { readFile } from '@/shared/readFile'

/** The question of a page for a file, answered with one of this desk. */
const emit = defineEmits<{ give: [files: { name: string; content: string }[]] }>()
const LARGEST = 25 * 1024 * 1024

async function give(event: Event) {
  const files = [...((event.target as HTMLInputElement).files ?? [])]
  if (files.reduce((sum, file) => sum + file.size, 0) > LARGEST) {
    complain(new Error('Files of up to 25 MB can be given to the page.'))
    return
  }
  const read = async (file: File) => ({ name: file.name, content: await readFile(file) })
  emit('give', await Promise.all(files.map(read)))
}
</script>

<template>
  <div class="absolute inset-0 flex items-center justify-center bg-black/30" @mousedown.stop @mouseup.stop>
    <div class="floating flex flex-col gap-3 p-4">
      <label class="text-sm"
        >The page asks for a file <input type="file" multiple class="field mt-1" @change="give"
      /></label>
      <button class="button self-end" @click="emit('give', [])">Give none</button>
    </div>
  </div>
</template>
