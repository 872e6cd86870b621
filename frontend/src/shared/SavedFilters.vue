<script setup lang="ts">
import { X } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, ask } from '@/api/client'
import { useAct } from '@/shared/acting'

/** What a person looks for again and again in a list: chips to press, and saving what is chosen now. */
type Values = Record<string, string>
const props = defineProps<{ view: string; now: Values }>()
const emit = defineEmits<{ choose: [values: Values] }>()
const query = useQuery({
  queryKey: computed(() => ['filters', props.view]),
  queryFn: () => ask(api.GET('/api/me/filters', { params: { query: { view: props.view } } })),
})
const filters = computed(() => query.data.value?.filters ?? [])
const stale = () => [['filters', props.view]]
const plain = (values: Values) => JSON.stringify(Object.entries(values).filter(([, value]) => value).sort())
const chosen = computed(() => plain(props.now))
const anything = computed(() => Object.values(props.now).some(Boolean))
const known = computed(() => filters.value.some((one) => plain(one.body) === chosen.value))
const naming = ref(false)
const name = ref('')
const { act: save } = useAct(
  () => ask(api.POST('/api/me/filters', { body: { view: props.view, name: name.value, body: props.now } })),
  {
    stale,
    done: () => {
      naming.value = false
      name.value = ''
    },
  },
)
const { act: drop } = useAct(
  (id: number) => ask(api.DELETE('/api/me/filters/{id}', { params: { path: { id } } })),
  { stale },
)
</script>

<template>
  <div v-if="filters.length || anything" class="mb-3 flex flex-wrap items-center gap-2 text-sm" data-role="filters">
    <span v-for="one in filters" :key="one.id" class="chip inline-flex items-center gap-1">
      <button
        :class="{ 'font-semibold': plain(one.body) === chosen }"
        :aria-pressed="plain(one.body) === chosen"
        @click="emit('choose', one.body)"
      >
        {{ one.name }}
      </button>
      <button class="button-bare p-0" :aria-label="`Forget ${one.name}`" @click="drop(one.id)">
        <X :size="12" />
      </button>
    </span>
    <form v-if="naming" class="flex items-center gap-1" @submit.prevent="save()">
      <input v-model="name" class="field w-44 py-0.5" aria-label="Name of the filter" maxlength="60" required />
      <button class="button py-0.5">Save</button>
      <button type="button" class="button py-0.5" @click="naming = false">Cancel</button>
    </form>
    <button v-else-if="anything && !known" class="underline" @click="naming = true">Save what is chosen</button>
  </div>
</template>
