<script setup lang="ts">
import Empty from '@/shared/Empty.vue'
</script>

<template>
  <div class="page">
    <Empty title="There is nothing at this address">
      <RouterLink class="underline" to="/tests">Go to the tests</RouterLink>
    </Empty>
  </div>
</template>
