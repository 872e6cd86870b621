import { ref, watch } from 'vue'
import type { Ref } from 'vue'

import type { Act } from '@/features/pages/StillPanel.vue'
import type { Asked, Peeked } from '@/features/live/useLive'

/** The still that is open, if any: taking one, and adding sentences for what is on it. */
export function useStill(send: (message: Asked) => void, busy: Ref<boolean>, aside: Ref<boolean>) {
  /** The saved page of the still; 0 for none. */
  const saved = ref(0)
  /** The still that was taken before it. */
  const before = ref(0)
  const peeked = ref<Peeked | null>(null)
  let last = 0
  watch(saved, (page) => (aside.value = page > 0)) // the list wants the room of the drawer

  function take() {
    busy.value = true
    send({ type: 'still' })
  }
  function taken(page: number) {
    if (last) before.value = last
    last = saved.value = page
    busy.value = false
  }
  function act(steps: Act[], added: () => void) {
    busy.value = steps.some((one) => one.perform)
    for (const one of steps) send({ type: 'act', ...one })
    added()
  }
  function close() {
    saved.value = 0
  }
  return { saved, before, peeked, take, taken, act, close }
}
