import { useDebounceFn } from '@vueuse/core'
import { ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'

export type Wrong = Shapes['TypedWrong']

/** What is wrong with a value while it is typed, as the test sees it; nothing where nobody answers. */
export function useTyped(test: () => number) {
  const wrong = ref<Wrong[]>([])
  let turn = 0

  async function look(what: Shapes['TypedAsk'], now: number) {
    try {
      const params = { path: { id: test() } }
      const got = await ask(api.POST('/api/tests/{id}/typed', { params, body: what }))
      if (now === turn) wrong.value = got.problems
    } catch {
      if (now === turn) wrong.value = []
    }
  }
  const soon = useDebounceFn(look, 200)
  return {
    wrong,
    check(what: Shapes['TypedAsk']) {
      turn += 1
      void soon(what, turn)
    },
    forget() {
      turn += 1
      wrong.value = []
    },
  }
}
