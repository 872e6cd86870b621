<script setup lang="ts">
import ImpactButton from '@/features/impact/ImpactButton.vue'
import { computed } from 'vue'

import { mayChange } from '@/api/client'
import { useHere } from '@/api/presence'
import { useSharedTable, useTest } from '@/api/queries'
import OthersHere from '@/features/editing/OthersHere.vue'
import { useEdits } from '@/features/editing/useEdits'
import Draft from '@/shared/Draft.vue'
import Trouble from '@/shared/Trouble.vue'
import { useRouteId } from '@/shared/routeId'

import RowsGrid from './RowsGrid.vue'

/** A shared table by itself. */
const query = useTest(useRouteId())
const table = computed(() => query.data.value)
const edits = useEdits(table)
useHere(() => table.value?.id ?? 0)
const shared = useSharedTable(computed(() => table.value?.id ?? 0))
const usedBy = computed(() => shared.data.value?.used_by ?? [])
</script>

<template>
  <div class="flex h-full flex-col">
    <Trouble :error="query.error.value" class="m-4" />
    <template v-if="table">
      <div class="flex items-center gap-3 border-b border-line bg-sheet px-4 py-2">
        <RouterLink to="/data" class="text-soft hover:underline">Data</RouterLink>
        <Draft
          class="min-w-0 flex-1 truncate rounded border border-transparent bg-transparent px-1 font-story text-lg hover:border-line"
          :value="table.name"
          :keep="`name of test ${table.id}`"
          :disabled="!mayChange()"
          aria-label="Name of the table"
          @save="edits.rename($event)"
        />
        <OthersHere :test="table" />
        <span class="text-sm text-soft">{{
          usedBy.length ? `used by ${usedBy.join(', ')}` : 'no test uses it yet'
        }}</span>
        <ImpactButton kind="table" :of="table.id" />
      </div>
      <RowsGrid class="min-h-0 flex-1" :test="table" :edits="edits" :fixed="!mayChange()" />
    </template>
  </div>
</template>
