<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api, ask, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'
import { here } from '@/shared/zones'

import HowReported from './HowReported.vue'
import PeopleChips from './PeopleChips.vue'
import { taken } from './taking'

/** Taking a report out as a file, or mailing it: of a run, a run of a plan, or of some days. */
const props = defineProps<{ what: Shapes['ReportIn']['what']; of?: number; days?: number }>()
const open = ref(false)
const template = useLocalStorage('lantern-report-template', 'full')
const form = useLocalStorage('lantern-report-form', 'html')
const people = ref<{ id: number; name: string }[]>([])
const word = ref('')

const report = computed(() => ({
  what: props.what,
  key: props.of ?? 0,
  template: template.value,
  form: form.value,
  days: props.days ?? 30,
  zone: here,
}))
const { act: take, busy: making, trouble: notMade } = useAct(() => taken(report.value), { inPlace: true })
const {
  act: send,
  busy: sending,
  trouble: notSent,
} = useAct(
  () => {
    const body = { report: report.value, people: people.value.map((one) => one.id), word: word.value }
    return ask(api.POST('/api/reports/mail', { body }))
  },
  {
    inPlace: true,
    done: ({ mails, without }) => {
      open.value = false
      word.value = ''
      const left = without.length ? ` ${without.join(', ')} has no mail address.` : ''
      say(`The report goes out to ${mails === 1 ? 'one person' : `${mails} people`}.${left}`)
    },
  },
)
</script>

<template>
  <button class="button" data-role="report" @click="open = true">Report…</button>
  <Modal v-model:open="open" title="Report" wide>
    <form class="flex flex-col gap-4 text-sm" @submit.prevent="take()">
      <HowReported v-model:template="template" v-model:form="form" :trends="what === 'trends'" />
      <Trouble :error="notMade" />
      <div class="flex justify-end">
        <button class="button button-main" :disabled="making">
          {{ making ? 'Making it…' : 'Take it out' }}
        </button>
      </div>
    </form>
    <section v-if="mayChange()" class="mt-4 border-t border-line pt-3 text-sm">
      <h3 class="mb-2 font-semibold">Or mail it</h3>
      <PeopleChips v-model="people" />
      <label class="mt-2 block"
        >A word with it
        <textarea v-model="word" class="field mt-1" rows="2" name="word" maxlength="2000"></textarea>
      </label>
      <Trouble :error="notSent" />
      <div class="mt-2 flex justify-end">
        <button class="button" :disabled="!people.length || sending" @click="send()">
          {{ sending ? 'Sending…' : 'Mail it' }}
        </button>
      </div>
    </section>
  </Modal>
</template>
