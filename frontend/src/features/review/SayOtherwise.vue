<script setup lang="ts">
import { ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

import { KINDS } from './kinds'
import type { Kind } from './kinds'

/** A person says what a failure is: it is kept, shown, and looked at when it comes again. */
const props = defineProps<{ result: number; verdict: Shapes['VerdictOut']; many: number }>()
const open = defineModel<boolean>('open', { required: true })
const kind = ref<Kind | ''>(props.verdict.said?.kind ?? '')
const word = ref(props.verdict.said?.word ?? '')
const saying = useAct(
  () =>
    ask(
      api.POST('/api/results/{id}/verdict', {
        params: { path: { id: props.result } },
        body: { kind: kind.value as Kind, word: word.value },
      }),
    ),
  {
    inPlace: true,
    stale: [['causes'], ['verdict']],
    done: () => {
      open.value = false
      say(`Kept: ${kind.value}. It is looked at when such a failure comes again.`)
    },
  },
)
</script>

<template>
  <Modal v-model:open="open" title="What is it?">
    <form class="flex flex-col gap-3" @submit.prevent="saying.act()">
      <p class="text-sm text-soft">
        Lantern said {{ verdict.verdict
        }}{{ many > 1 ? `. What you say holds for all ${many} failures of this cause.` : '.' }}
      </p>
      <fieldset class="flex flex-col gap-1">
        <legend class="sr-only">Whose fault it is</legend>
        <label v-for="one in KINDS" :key="one.kind" class="flex items-baseline gap-2 text-sm">
          <input v-model="kind" type="radio" name="kind" :value="one.kind" required />
          <span
            ><b class="font-semibold">{{ one.kind }}</b> <span class="text-soft">{{ one.means }}</span></span
          >
        </label>
      </fieldset>
      <label class="text-sm"
        >Why <textarea v-model="word" class="field mt-1" rows="2" name="word" maxlength="2000" />
      </label>
      <Trouble :error="saying.trouble.value" />
      <div class="flex justify-end gap-2">
        <button type="button" class="button" @click="open = false">Cancel</button>
        <button class="button button-main" :disabled="!kind || saying.busy.value">Keep</button>
      </div>
    </form>
  </Modal>
</template>
