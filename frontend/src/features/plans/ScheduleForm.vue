<script setup lang="ts">
import { X } from '@lucide/vue'
import { useQuery } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { computed, reactive } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { ZONES, here } from '@/shared/zones'

import { USUAL, readCron, when, writeCron } from './days'
import type { Usual } from './days'

/** When a plan starts: once or again, in words or as a cron expression; its next times while typing. */
type Body = Shapes['ScheduleBody']
const props = defineProps<{ schedule?: Body }>()
const emit = defineEmits<{ save: [schedule: Body]; close: [] }>()
const DAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']

const was = props.schedule
const known = readCron(was?.cron ?? '')
const form = reactive({
  usual: (was?.at ? 'once' : was?.cron ? known.usual : 'daily') as Usual,
  time: was?.cron ? known.time : '03:00',
  day: known.day || '1',
  at: (was?.at ?? '').slice(0, 16),
  cron: was?.cron || '0 3 * * 1-5',
  zone: was?.zone ?? here,
  until: was?.until ?? '',
  pauses: (was?.pauses ?? []).map((one) => ({ ...one })),
})
const body = computed<Body>(() => ({
  at: form.usual === 'once' ? form.at || null : null,
  cron:
    form.usual === 'once'
      ? ''
      : form.usual === 'cron'
        ? form.cron
        : writeCron(form.usual, form.time, form.day),
  zone: form.zone,
  until: form.usual !== 'once' && form.until ? form.until : null,
  pauses:
    form.usual === 'once'
      ? []
      : form.pauses
          .filter((one) => one.first)
          .map((one) => ({ first: one.first, last: one.last || one.first })),
  skips: was?.skips ?? [],
  enabled: was?.enabled ?? true,
}))
const asked = useDebounce(body, 200)
const preview = useQuery({
  queryKey: computed(() => ['plans', 'preview', asked.value]),
  queryFn: () => ask(api.POST('/api/schedules/preview', { body: asked.value })),
  placeholderData: (before: Shapes['SchedulePreview'] | undefined) => before,
})
</script>

<template>
  <form
    class="rounded-md border border-line p-3"
    data-role="schedule-form"
    @submit.prevent="emit('save', body)"
  >
    <div class="flex flex-wrap items-center gap-2">
      <select v-model="form.usual" class="field w-auto" aria-label="How often">
        <option value="once">once</option>
        <option value="hourly">every hour</option>
        <option v-for="one in USUAL" :key="one.name" :value="one.name">{{ one.words }}</option>
        <option value="cron">by a cron expression</option>
      </select>
      <input
        v-if="form.usual === 'once'"
        v-model="form.at"
        class="field w-auto"
        type="datetime-local"
        required
        aria-label="At what time"
      />
      <input
        v-else-if="form.usual === 'cron'"
        v-model="form.cron"
        class="field w-44 font-mono"
        required
        aria-label="Cron expression"
        title="minute, hour, day, month, day of the week"
      />
      <template v-else>
        <select
          v-if="form.usual === 'weekly'"
          v-model="form.day"
          class="field w-auto"
          aria-label="On which day"
        >
          <option v-for="(name, n) in DAYS" :key="n" :value="String(n)">on {{ name }}</option>
        </select>
        <label v-if="form.usual === 'monthly'" class="flex items-center gap-1"
          >on day
          <input
            v-model="form.day"
            class="field w-16"
            type="number"
            min="1"
            max="31"
            aria-label="Day of the month"
        /></label>
        <label class="flex items-center gap-1"
          >at <input v-model="form.time" class="field w-auto" type="time" required aria-label="Time of day"
        /></label>
      </template>
      <select v-model="form.zone" class="field w-auto max-w-52" aria-label="Time zone">
        <option v-for="one in ZONES" :key="one">{{ one }}</option>
      </select>
    </div>
    <div v-if="form.usual !== 'once'" class="mt-2 flex flex-wrap items-center gap-2">
      <label class="flex items-center gap-1"
        >until <input v-model="form.until" class="field w-auto" type="date" aria-label="Last day"
      /></label>
      <span v-for="(one, n) in form.pauses" :key="n" class="flex items-center gap-1">
        not from
        <input
          v-model="one.first"
          class="field w-auto"
          type="date"
          :aria-label="`First day of pause ${n + 1}`"
        />
        to
        <input
          v-model="one.last"
          class="field w-auto"
          type="date"
          :aria-label="`Last day of pause ${n + 1}`"
        />
        <button
          type="button"
          class="button-bare px-1"
          :aria-label="`Take out pause ${n + 1}`"
          @click="form.pauses.splice(n, 1)"
        >
          <X :size="14" />
        </button>
      </span>
      <button type="button" class="button py-0.5" @click="form.pauses.push({ first: '', last: '' })">
        Add a pause
      </button>
    </div>
    <div class="mt-2 text-xs" aria-live="polite" data-role="preview">
      <p v-if="preview.data.value?.trouble" class="text-odd">
        {{ preview.data.value.trouble }} {{ preview.data.value.hint }}
      </p>
      <template v-else-if="preview.data.value">
        <p class="text-soft">
          {{ preview.data.value.words }} {{ form.usual === 'once' ? '' : `(${body.cron})` }}
        </p>
        <p>{{ preview.data.value.next.map((one) => when(one, form.zone)).join(' · ') }}</p>
        <p class="text-odd">{{ preview.data.value.hint }}</p>
      </template>
    </div>
    <div class="mt-2 flex justify-end gap-2">
      <button type="button" class="button" @click="emit('close')">Cancel</button>
      <button class="button button-main" :disabled="Boolean(preview.data.value?.trouble)">Save</button>
    </div>
  </form>
</template>
