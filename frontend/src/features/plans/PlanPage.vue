<script setup lang="ts">
import { Play } from '@lucide/vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, mayChange } from '@/api/client'
import { useEnvironments } from '@/api/queries'
import Draft from '@/shared/Draft.vue'
import Trouble from '@/shared/Trouble.vue'
import { useAct } from '@/shared/acting'
import { useRouteId } from '@/shared/routeId'

import Ahead from './Ahead.vue'
import Cells from './Cells.vue'
import HowItRuns from './HowItRuns.vue'
import Picks from './Picks.vue'
import PlanRuns from './PlanRuns.vue'
import PlanSchedules from './PlanSchedules.vue'
import PlanVersions from './PlanVersions.vue'
import WhoIsTold from './WhoIsTold.vue'
import { usePlan } from './usePlan'

/** One plan: what it takes, how it runs, what it would come to, and what came of it before. */
const id = useRouteId()
const router = useRouter()
const { query, plan, save, settled, outlook } = usePlan(id)
const environments = useEnvironments()
const fixed = computed(() => !mayChange())
const where = ref(0)
const past = ref(false)

const { act: start, busy: starting } = useAct(
  async () => {
    // What is started is what stands here.
    if (!(await settled())) throw new Error('Nothing was started: a change of the plan was not saved.')
    const body = where.value ? { environment: where.value } : {}
    return ask(api.POST('/api/plans/{id}/runs', { params: { path: { id: id.value } }, body }))
  },
  { stale: [['plans']], done: (made) => router.push(`/plan-runs/${made.run.id}`) },
)
const rename = (name: string) => (name.trim() ? save({ name }) : undefined)
</script>

<template>
  <div class="page">
    <Trouble :error="query.error.value" />
    <template v-if="plan">
      <div class="mb-3 flex flex-wrap items-center gap-2">
        <h1 class="sr-only">{{ plan.name }}</h1>
        <Draft
          class="min-w-60 flex-1 truncate rounded border border-transparent bg-transparent px-1 font-story text-xl hover:border-line"
          :value="plan.name"
          :keep="`name of plan ${plan.id}`"
          :disabled="fixed"
          aria-label="Name of the plan"
          @save="rename"
        />
        <button class="button" :aria-pressed="past" @click="past = !past">
          {{ past ? 'Back to the plan' : `Versions (${plan.version})` }}
        </button>
        <template v-if="!fixed">
          <label class="flex items-center gap-2 text-sm text-soft"
            >in
            <select v-model="where" class="field w-auto" aria-label="Environment to start in">
              <option :value="0">as the plan says</option>
              <option v-for="one in environments.data.value?.environments" :key="one.id" :value="one.id">
                {{ one.name }}
              </option>
            </select></label
          >
          <button
            class="button button-main"
            data-role="start"
            :disabled="starting || Boolean(outlook.data.value?.trouble)"
            :title="outlook.data.value?.trouble || 'A run on record'"
            @click="start()"
          >
            <Play :size="14" /> Start
          </button>
        </template>
      </div>
      <PlanVersions v-if="past" :plan="plan" :fixed="fixed" @close="past = false" />
      <template v-else>
        <Ahead :outlook="outlook.data.value" :error="outlook.error.value" />
        <div class="grid gap-5 lg:grid-cols-[1fr_24rem]">
          <div class="flex min-w-0 flex-col gap-5">
            <Picks :plan="plan" :fixed="fixed" @save="save($event)" />
            <PlanSchedules :plan="id" :fixed="fixed" />
            <Cells :plan="plan" :fixed="fixed" :outlook="outlook.data.value" @save="save($event)" />
            <WhoIsTold :plan="plan" :fixed="fixed" @save="save($event)" />
          </div>
          <HowItRuns class="lg:row-span-2" :plan="plan" :fixed="fixed" @save="save($event)" />
        </div>
        <PlanRuns class="mt-5" :plan="id" />
      </template>
    </template>
  </div>
</template>
