<script setup lang="ts">
import { ref } from 'vue'

import ImpactButton from '@/features/impact/ImpactButton.vue'
import { api, ask, isLead, mayChange } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import ReportOrders from '@/features/reports/ReportOrders.vue'
import Draft from '@/shared/Draft.vue'
import Trouble from '@/shared/Trouble.vue'
import { saved } from '@/shared/conflicts'
import { useAct } from '@/shared/acting'
import { say } from '@/shared/notes'

import HooksPart from './HooksPart.vue'
import KeepingPart from './KeepingPart.vue'
import MailPart from './MailPart.vue'
import PeoplePart from './PeoplePart.vue'
import RehearsingPart from './RehearsingPart.vue'
import RemotesPart from './RemotesPart.vue'
import ProjectPart from './ProjectPart.vue'
import RenameVariable from './RenameVariable.vue'
import SecurityPart from './SecurityPart.vue'
import TrackersPart from './TrackersPart.vue'

const environments = useEnvironments()

const fresh = ref({ name: '', address: '' })
const secret = ref({ environment: 0, name: '', value: '' })
const stale = [['environments']]

const { act: addEnvironment } = useAct(() => ask(api.POST('/api/environments', { body: fresh.value })), {
  stale,
  done: () => {
    say('The environment is there.')
    fresh.value = { name: '', address: '' }
  },
})

const renaming = ref('')
const variable = ref({ environment: 0, name: '', value: '' })

function renamed() {
  renaming.value = ''
  variable.value = { environment: 0, name: '', value: '' }
  void environments.refetch()
}
async function keepVariable(one: Shapes['EnvironmentOut'], name: string, value: string | null) {
  if (await change(one, { variables: { [name]: value } }))
    variable.value = { environment: 0, name: '', value: '' }
}

type Change = Partial<Shapes['EnvironmentChange']>
const put = (one: Shapes['EnvironmentOut'], body: Change) =>
  ask(api.PUT('/api/environments/{id}', { params: { path: { id: one.id } }, body }))
const changing = useAct(({ one, body }: { one: Shapes['EnvironmentOut']; body: Change }) => put(one, body), {
  stale,
  done: () => say('Saved.'),
})
const change = (one: Shapes['EnvironmentOut'], body: Change) => changing.act({ one, body })

interface Typed {
  one: Shapes['EnvironmentOut']
  part: 'name' | 'address' | 'reset'
  text: string
}
const typing = useAct(
  ({ one, part, text }: Typed) => {
    const save = (meant: string, was: string) => put(one, { [part]: meant, was })
    const newest = async () => {
      const { environments: now } = await ask(api.GET('/api/environments'))
      return now.find((other) => other.id === one.id)?.[part] ?? ''
    }
    return saved(part, text, one[part], save, newest)
  },
  { stale, done: () => say('Saved.') },
)
const changeText = (one: Typed['one'], part: Typed['part'], text: string) => typing.act({ one, part, text })

const { act: keepSecret } = useAct(
  () => {
    const { environment, name, value } = secret.value
    return ask(
      api.PUT('/api/environments/{id}/secrets', {
        params: { path: { id: environment } },
        body: { name, value },
      }),
    )
  },
  {
    stale,
    done: () => {
      say(`The secret ${secret.value.name} is kept; nobody can read it again.`)
      secret.value = { environment: 0, name: '', value: '' }
    },
  },
)
</script>

<template>
  <div class="page flex flex-col gap-8">
    <h1 class="heading">Settings</h1>
    <RenameVariable v-if="renaming" :name="renaming" @close="renamed" />
    <section>
      <h2 class="mb-2 font-semibold">Environments</h2>
      <p class="mb-3 text-soft">
        Where the application under test answers. Secrets can be replaced but never read again.
      </p>
      <Trouble :error="environments.error.value" class="mb-3" />
      <div class="panel">
        <table class="list-table">
          <thead>
            <tr>
              <th class="w-52">Name</th>
              <th>Address</th>
              <th>Variables</th>
              <th>Secrets</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in environments.data.value?.environments" :key="one.id">
              <td>
                <Draft
                  class="field"
                  :value="one.name"
                  :disabled="!mayChange()"
                  aria-label="Name"
                  @save="changeText(one, 'name', $event)"
                />
                <ImpactButton kind="environment" :of="one.id" class="mt-1" />
              </td>
              <td>
                <Draft
                  class="field"
                  :value="one.address"
                  :disabled="!mayChange()"
                  aria-label="Address"
                  @save="changeText(one, 'address', $event)"
                />
                <Draft
                  class="field mt-1 text-sm"
                  :value="one.reset"
                  :disabled="!mayChange()"
                  placeholder="Path that sets it back, such as /reset"
                  title="A POST to this path sets the application back before a recording is proved"
                  aria-label="Path that sets the application back"
                  @save="changeText(one, 'reset', $event)"
                />
              </td>
              <td>
                <span class="flex flex-wrap items-center gap-1">
                  <button
                    v-for="(value, name) in one.variables"
                    :key="name"
                    class="chip"
                    :disabled="!mayChange()"
                    @click="variable = { environment: one.id, name, value }"
                  >
                    {{ name }} = {{ value }}
                  </button>
                  <button
                    v-if="mayChange()"
                    class="button-bare"
                    @click="variable = { environment: one.id, name: '', value: '' }"
                  >
                    Add a variable
                  </button>
                </span>
                <form
                  v-if="variable.environment === one.id"
                  class="mt-2 flex gap-2"
                  @submit.prevent="keepVariable(one, variable.name, variable.value)"
                >
                  <input
                    v-model="variable.name"
                    class="field"
                    placeholder="name"
                    aria-label="Name of the variable"
                    required
                  />
                  <input
                    v-model="variable.value"
                    class="field"
                    placeholder="value"
                    aria-label="Value of the variable"
                  />
                  <button class="button">Save</button>
                  <button
                    v-if="variable.name in one.variables"
                    type="button"
                    class="button"
                    @click="keepVariable(one, variable.name, null)"
                  >
                    Delete
                  </button>
                  <ImpactButton v-if="variable.name in one.variables" kind="variable" :of="variable.name" />
                  <button
                    v-if="variable.name in one.variables && isLead()"
                    type="button"
                    class="button"
                    @click="renaming = variable.name"
                  >
                    Rename everywhere…
                  </button>
                </form>
              </td>
              <td>
                <span class="flex flex-wrap items-center gap-1">
                  <button
                    v-for="name in one.secrets"
                    :key="name"
                    class="chip"
                    :disabled="!mayChange()"
                    @click="secret = { environment: one.id, name, value: '' }"
                  >
                    {{ name }}
                  </button>
                  <button
                    v-if="mayChange()"
                    class="button-bare"
                    @click="secret = { environment: one.id, name: '', value: '' }"
                  >
                    Add a secret
                  </button>
                </span>
                <form
                  v-if="secret.environment === one.id"
                  class="mt-2 flex gap-2"
                  @submit.prevent="keepSecret()"
                >
                  <input
                    v-model="secret.name"
                    class="field"
                    placeholder="name"
                    aria-label="Name of the secret"
                    required
                  />
                  <input
                    v-model="secret.value"
                    class="field"
                    type="password"
                    placeholder="value"
                    aria-label="Value"
                    autocomplete="new-password"
                    required
                  />
                  <button class="button">Keep</button>
                </form>
              </td>
            </tr>
          </tbody>
        </table>
        <form v-if="mayChange()" class="flex gap-3 p-3" @submit.prevent="addEnvironment()">
          <input
            v-model="fresh.name"
            class="field max-w-48"
            placeholder="staging"
            aria-label="Name of the new environment"
            required
          />
          <input
            v-model="fresh.address"
            class="field"
            placeholder="http://127.0.0.1:8190"
            aria-label="Address of the new environment"
            required
          />
          <button class="button">Add the environment</button>
        </form>
      </div>
    </section>
    <ProjectPart />
    <PeoplePart />
    <MailPart v-if="isLead()" />
    <ReportOrders v-if="isLead()" />
    <HooksPart v-if="isLead()" />
    <TrackersPart v-if="isLead()" />
    <RemotesPart v-if="isLead()" />
    <RehearsingPart v-if="isLead()" />
    <KeepingPart v-if="isLead()" />
    <SecurityPart v-if="isLead()" />
  </div>
</template>
