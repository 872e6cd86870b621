<script setup lang="ts">
import { useStations } from '@/api/queries'
import Empty from '@/shared/Empty.vue'
import Trouble from '@/shared/Trouble.vue'
import { ago, exact } from '@/shared/times'

import Queue from './Queue.vue'

const stations = useStations()
</script>

<template>
  <div class="page">
    <h1 class="heading mb-4">Stations</h1>
    <Trouble :error="stations.error.value" />
    <Empty v-if="stations.data.value?.stations.length === 0" title="No station is up">
      A station owns the browsers: without one nothing can be recorded or run. Start one on the server with
      <code class="font-semibold">./lantern station</code>
    </Empty>
    <div v-else-if="stations.data.value" class="panel">
      <table class="list-table">
        <thead>
          <tr>
            <th>Machine</th>
            <th>Browsers</th>
            <th>Running now</th>
            <th>Rows under way</th>
            <th>Up since</th>
            <th>Last sign of life</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in stations.data.value.stations" :key="one.id">
            <td class="font-medium">{{ one.name }}</td>
            <td>{{ one.engines.join(', ') || 'none is installed' }}</td>
            <td>{{ one.browser || 'none, they start when needed' }}</td>
            <td>{{ one.busy }}</td>
            <td :title="exact(one.started_at)">{{ ago(one.started_at) }}</td>
            <td>{{ ago(one.beat_at) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <Queue />
  </div>
</template>
