<script setup lang="ts">
import { ref } from 'vue'

import { isLead } from '@/api/client'
import { useStations } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'
import { ago, exact } from '@/shared/times'

import AddStation from './AddStation.vue'
import Queue from './Queue.vue'
import StationState from './StationState.vue'
import { browsersOf } from './words'

const stations = useStations()
const adding = ref(false)
</script>

<template>
  <div class="page">
    <div class="mb-4 flex items-center">
      <h1 class="heading">Stations</h1>
      <button v-if="isLead()" class="button ml-auto" @click="adding = true">Add a station</button>
    </div>
    <Trouble :error="stations.error.value" />
    <Empty
      v-if="stations.data.value && !stations.data.value.stations.some((one) => one.up)"
      title="No station is up"
    >
      A station owns the browsers: without one nothing can be recorded or run. Start one on the server with
      <code class="font-semibold">./lantern station</code>, or let another machine join.
    </Empty>
    <div v-if="stations.data.value?.stations.length" class="panel mt-4">
      <table class="list-table">
        <thead>
          <tr>
            <th>Machine</th>
            <th>State</th>
            <th>Browsers</th>
            <th>Labels</th>
            <th>Plays</th>
            <th>Load</th>
            <th>Since</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="one in stations.data.value.stations"
            :key="one.id"
            :class="!one.up && 'text-soft'"
            :data-station="one.id"
          >
            <td class="max-w-56 font-medium">
              <RouterLink class="wrap-anywhere hover:underline" :to="`/stations/${one.id}`">{{
                one.name
              }}</RouterLink>
              <span v-if="one.joined" class="chip ml-2" title="It joined over the network">joined</span>
            </td>
            <td><StationState :station="one" /></td>
            <td class="text-soft">{{ browsersOf(one) }}</td>
            <td>
              <span v-for="label in one.labels" :key="label" class="chip mr-1">{{ label }}</span>
            </td>
            <td class="whitespace-nowrap">{{ one.up ? `${one.busy} of ${one.places}` : '' }}</td>
            <td>{{ one.up ? `${Math.round(one.load * 100)} %` : '' }}</td>
            <td class="whitespace-nowrap text-soft" :title="exact(one.up ? one.started_at : one.ended_at)">
              {{ ago(one.up ? one.started_at : (one.ended_at ?? one.beat_at)) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <Queue />
    <AddStation v-model:open="adding" />
  </div>
</template>
