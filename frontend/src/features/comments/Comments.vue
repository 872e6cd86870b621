<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'
import { ago, exact } from '@/shared/times'

/** What people say of something; a run can also be looked at, with or without a word. */
type Comment = Shapes['CommentOut']
const props = defineProps<{ place: Comment['place']; of: number; looks?: boolean; quiet?: boolean }>()
const query = useQuery({
  queryKey: computed(() => ['comments', props.place, props.of]),
  queryFn: () => ask(api.GET('/api/comments', { params: { query: { place: props.place, key: props.of } } })),
  enabled: computed(() => props.of > 0),
})
const comments = computed(() => query.data.value?.comments ?? [])
const words = ref('')
const changing = ref(0)
const changed = ref('')
const stale = [['comments']]

const { act: say, busy } = useAct(
  ({ text, looked }: { text: string; looked: boolean }) =>
    ask(api.POST('/api/comments', { body: { place: props.place, key: props.of, text, looked } })),
  { stale, done: () => (words.value = '') },
)
const { act: save } = useAct(
  ({ id, text }: { id: number; text: string }) =>
    ask(api.PATCH('/api/comments/{id}', { params: { path: { id } }, body: { text } })),
  { stale, done: () => (changing.value = 0) },
)
const { act: remove } = useAct(
  (id: number) => ask(api.DELETE('/api/comments/{id}', { params: { path: { id } } })),
  { stale },
)
function edit(one: Comment) {
  changing.value = one.id
  changed.value = one.text
}
/** A comment in pieces, mentions apart. */
const pieces = (text: string) => text.split(/((?<![\w@.])@[A-Za-z0-9][\w.-]*)/)
const WHERE: Partial<Record<Comment['place'], string>> = { row: 'on a row', sentence: 'on a sentence' }
</script>

<template>
  <section data-role="comments" :aria-label="`Comments on this ${place}`">
    <h2 v-if="!quiet" class="mb-1 text-sm font-semibold">
      Comments <span v-if="comments.length" class="font-normal text-soft">{{ comments.length }}</span>
    </h2>
    <ol v-if="comments.length" class="mb-2 flex flex-col gap-2">
      <li v-for="one in comments" :key="one.id" class="group text-sm" data-role="remark">
        <p class="flex items-baseline gap-2 text-xs text-soft">
          <b class="font-semibold text-ink">{{ one.author || 'somebody' }}</b>
          <span v-if="one.looked">looked at it</span>
          <span v-if="one.place !== place">{{ WHERE[one.place] }}</span>
          <span :title="exact(one.at)">{{ ago(one.at) }}</span>
          <span v-if="one.changed_at" :title="exact(one.changed_at)">changed</span>
          <span v-if="one.own" class="ml-auto flex gap-2">
            <button class="underline" @click="edit(one)">Change</button>
            <button class="underline" @click="remove(one.id)">Take back</button>
          </span>
        </p>
        <form
          v-if="changing === one.id"
          class="mt-1 flex gap-2"
          @submit.prevent="save({ id: one.id, text: changed })"
        >
          <textarea v-model="changed" class="field" rows="2" aria-label="Your comment" />
          <span class="flex flex-col gap-1">
            <button class="button py-0.5">Save</button>
            <button type="button" class="button py-0.5" @click="changing = 0">Cancel</button>
          </span>
        </form>
        <p v-else class="whitespace-pre-wrap wrap-anywhere">
          <template v-for="(piece, number) in pieces(one.text)" :key="number"
            ><b v-if="number % 2" class="font-semibold text-act">{{ piece }}</b
            ><template v-else>{{ piece }}</template></template
          >
        </p>
      </li>
    </ol>
    <form
      v-if="mayChange()"
      class="flex flex-col gap-1.5"
      @submit.prevent="say({ text: words, looked: false })"
    >
      <textarea
        v-model="words"
        class="field text-sm"
        rows="2"
        :aria-label="`Comment on this ${place}`"
        placeholder="Say something; @name tells a person of it"
        @keydown.ctrl.enter="words.trim() && say({ text: words, looked: false })"
      />
      <span class="flex justify-end gap-2">
        <button
          v-if="looks"
          type="button"
          class="button py-0.5"
          :disabled="busy"
          title="Tell the others that you have looked at this run"
          @click="say({ text: words, looked: true })"
        >
          I looked at it
        </button>
        <button class="button py-0.5" :disabled="busy || !words.trim()">Comment</button>
      </span>
    </form>
    <p v-else-if="!comments.length" class="text-sm text-soft">Nobody has said anything yet.</p>
  </section>
</template>
