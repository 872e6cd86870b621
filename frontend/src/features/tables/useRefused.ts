import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import type { Test } from '@/api/client'

/** Rows up to which all are looked at after each change; *Check the data* looks at more. */
const MOST = 2000

/** The cells whose values would fail for certain, as far as the fields are known, with why. */
export function useRefused(test: () => Test) {
  const state = refDebounced(
    computed(() => `${test().id} ${test().version} ${test().table_version}`),
    500,
  )
  const query = useQuery({
    queryKey: computed(() => ['refused', state.value]),
    queryFn: () => {
      const params = { path: { id: test().id }, query: { rows: 'all' } }
      return ask(api.GET('/api/tests/{id}/data-check', { params }))
    },
    enabled: computed(() => test().row_count > 0 && test().row_count <= MOST),
    placeholderData: (before) => before,
  })
  const found = computed(
    () => new Map(query.data.value?.problems.map((one) => [`${one.row} ${one.column}`, one.message])),
  )
  return { at: (row: number, column: string) => found.value.get(`${row} ${column}`) }
}
