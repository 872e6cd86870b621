<script setup lang="ts">
import Draft from './Draft.vue'

/** Labels that a station must have, parted by commas. */
withDefaults(defineProps<{ needs: string[]; fixed: boolean; label: string; empty?: string }>(), {
  empty: 'any',
})
const emit = defineEmits<{ save: [needs: string[]] }>()
const save = (text: string) =>
  emit(
    'save',
    text
      .split(',')
      .map((one) => one.trim())
      .filter(Boolean),
  )
</script>

<template>
  <Draft
    class="field"
    :value="needs.join(', ')"
    :disabled="fixed"
    :aria-label="label"
    :placeholder="empty"
    title="Labels of stations, parted by commas: near the lab, with VPN"
    @save="save"
  />
</template>
