<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import Modal from '@/shared/Modal.vue'
import ToldOnce from '@/shared/ToldOnce.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { clock } from '@/shared/times'

/** How a machine elsewhere becomes a station: by a command with a token that is told once. */
const open = defineModel<boolean>('open', { required: true })
const invited = ref<Shapes['Invited']>()
watch(open, () => (invited.value = undefined))
const { act, trouble, busy } = useAct(() => ask(api.POST('/api/stations/invitations')), {
  inPlace: true,
  done: (now) => (invited.value = now),
})
const clear = location.protocol === 'http:' && !['localhost', '127.0.0.1'].includes(location.hostname)
const command = computed(
  () =>
    `lantern station --join ${location.origin} --token ${invited.value?.token}${clear ? ' --in-clear' : ''}`,
)
</script>

<template>
  <Modal v-model:open="open" title="Add a station" wide>
    <p class="mb-3 text-sm">
      Another machine plays rows as well: one near the lab, one with VPN, one with other browsers. It needs
      Lantern and a browser, and has to reach the application under test and this address; nobody has to reach
      it. It is given the secrets that each row names, and no others.
    </p>
    <p class="mb-3 text-sm text-soft">
      It plays runs. Recording, rehearsing and watching live stay with the stations beside the server.
    </p>
    <template v-if="invited">
      <p class="mb-2 text-sm">Start it on that machine with this, before {{ clock(invited.ends_at) }}:</p>
      <ToldOnce :text="command" what="command" />
      <p v-if="clear" class="mb-2 text-sm text-odd">
        This address is not encrypted: what goes to the station could be read on the way. Better open Lantern
        at an address that begins with https://.
      </p>
      <p class="text-sm text-soft">
        From then on it knows its own secret, kept in its folder <code>lantern-station</code>; later starts
        need no token.
      </p>
    </template>
    <div v-else class="flex justify-end">
      <button class="button button-main" :disabled="busy" @click="act()">Make a token</button>
    </div>
    <Trouble :error="trouble" />
  </Modal>
</template>
