<script setup lang="ts">
import { ago, exact } from '@/shared/times'

/** What was sent out, newest first: mails or messages to programs. Each can be sent once more. */
interface Message {
  id: number
  state: string
  tries: number
  said: string
  made_at: string
  next_at: string | null
  plan_run_id: number | null
  head: string
  more?: string
}
defineProps<{ messages: Message[] }>()
const emit = defineEmits<{ again: [id: number] }>()
function came(one: Message): string {
  const said = one.said && `: ${one.said}`
  if (one.state !== 'waiting') return one.tries ? `try ${one.tries}${said}` : one.said
  const when = one.next_at ? `at ${exact(one.next_at)}` : 'soon'
  return one.tries ? `try ${one.tries}${said}, again ${when}` : `goes out ${when}`
}
</script>

<template>
  <div class="max-h-64 overflow-auto" data-role="sent-log">
    <p v-if="!messages.length" class="text-soft">Nothing was sent yet.</p>
    <ul>
      <li v-for="one in messages" :key="one.id" class="flex items-baseline gap-2 py-0.5 text-xs">
        <span class="w-16 shrink-0" :class="one.state === 'sent' ? 'text-good' : 'text-odd'">{{
          one.state
        }}</span>
        <span class="max-w-48 shrink-0 truncate">{{ one.head }}</span>
        <RouterLink v-if="one.plan_run_id" class="shrink-0 underline" :to="`/plan-runs/${one.plan_run_id}`"
          >run {{ one.plan_run_id }}</RouterLink
        >
        <span v-if="one.more" class="max-w-80 shrink-0 truncate" :title="one.more">{{ one.more }}</span>
        <span class="min-w-0 flex-1 truncate text-soft" :title="one.said">{{ came(one) }}</span>
        <span class="shrink-0 text-soft" :title="exact(one.made_at)">{{ ago(one.made_at) }}</span>
        <button
          class="button py-0"
          :aria-label="`Send message ${one.id} once more`"
          @click="emit('again', one.id)"
        >
          Send again
        </button>
      </li>
    </ul>
  </div>
</template>
