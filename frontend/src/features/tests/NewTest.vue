<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import Modal from '@/shared/Modal.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'

const open = defineModel<boolean>('open', { required: true })
const router = useRouter()
const environments = useEnvironments()
const name = ref('')
const chosen = ref(0)
const newName = ref('')
const newAddress = ref('http://')

const listed = computed(() => environments.data.value?.environments ?? [])
watch([open, listed], () => {
  if (open.value && !listed.value.some((one) => one.id === chosen.value))
    chosen.value = listed.value[0]?.id ?? -1
})
const {
  act: make,
  busy,
  trouble: error,
  forget,
} = useAct(
  async () => {
    let environment = chosen.value
    if (environment === -1) {
      const made = await ask(
        api.POST('/api/environments', { body: { name: newName.value, address: newAddress.value } }),
      )
      environment = chosen.value = made.id
    }
    return ask(api.POST('/api/tests', { body: { name: name.value, environment } }))
  },
  {
    inPlace: true,
    stale: [['environments'], ['tests']],
    done: (test) => {
      open.value = false
      return router.push({ path: `/tests/${test.id}`, query: { record: '1' } })
    },
  },
)
watch(open, () => ((name.value = ''), forget()))
</script>

<template>
  <Modal v-model:open="open" title="New test">
    <form class="flex flex-col gap-3" @submit.prevent="make()">
      <label class="text-sm">
        What does it test?
        <input
          v-model="name"
          class="field mt-1"
          name="name"
          placeholder="A quote for porcelain"
          required
          maxlength="200"
        />
      </label>
      <label class="text-sm">
        Where?
        <select v-model="chosen" class="field mt-1" name="environment">
          <option v-for="one in listed" :key="one.id" :value="one.id">
            {{ one.name }} ({{ one.address }})
          </option>
          <option :value="-1">A new address…</option>
        </select>
      </label>
      <div v-if="chosen === -1" class="grid grid-cols-2 gap-3">
        <label class="text-sm">
          Name of the environment
          <input v-model="newName" class="field mt-1" placeholder="staging" required />
        </label>
        <label class="text-sm">
          Address
          <input v-model="newAddress" class="field mt-1" required />
        </label>
      </div>
      <Trouble :error="error" />
      <div class="mt-2 flex justify-end gap-2">
        <button type="button" class="button" @click="open = false">Cancel</button>
        <button class="button button-main" :disabled="busy">Open the stage</button>
      </div>
    </form>
  </Modal>
</template>
