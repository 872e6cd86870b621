<script setup lang="ts">
import { question } from '@/shared/questions'

import Modal from './Modal.vue'

/** Asks before something is done that could not be meant; closing it means no. */
</script>

<template>
  <Modal :open="Boolean(question)" :title="question?.title ?? ''" @update:open="question?.settle(false)">
    <div v-if="question" class="flex flex-col gap-3 text-sm" data-role="question">
      <p class="whitespace-pre-wrap wrap-anywhere">{{ question.text }}</p>
      <div class="flex justify-end gap-2">
        <button class="button" data-role="no" @click="question.settle(false)">{{ question.no }}</button>
        <button class="button button-main" data-role="yes" @click="question.settle(true)">
          {{ question.yes }}
        </button>
      </div>
    </div>
  </Modal>
</template>
