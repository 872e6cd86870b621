<script setup lang="ts">
import { connection } from '@/api/connection'

/** Says that Lantern does not answer, and what waits to be sent until it does. */
</script>

<template>
  <p
    v-if="connection.down"
    class="flex items-center gap-2 border-b border-bad bg-bad-paper px-4 py-1 text-sm"
    role="alert"
    data-role="offline"
  >
    <b>Lantern does not answer.</b>
    <span v-if="connection.waiting">
      {{ connection.waiting === 1 ? 'One change waits' : `${connection.waiting} changes wait` }} to be saved;
      {{ connection.waiting === 1 ? 'it is' : 'they are' }} sent as soon as it answers.
    </span>
    <span v-else>What is shown may be out of date. It is looked for every moment.</span>
  </p>
</template>
