<script setup lang="ts">
import { ref } from 'vue'

import type { Thing } from '@/api/queries'
import Modal from '@/shared/Modal.vue'

import Impact from './Impact.vue'

/** Opens what a change of something would touch. */
defineOptions({ inheritAttrs: false })
defineProps<{ kind: Thing; of: string | number }>()
const open = ref(false)
</script>

<template>
  <button
    type="button"
    class="button"
    data-role="touches"
    v-bind="$attrs"
    title="Which tests, plans and people a change of it would touch"
    @click="open = true"
  >
    Touches…
  </button>
  <Modal v-model:open="open" title="What a change touches" wide>
    <Impact :kind="kind" :of="of" />
  </Modal>
</template>
