import { ref } from 'vue'
import type { Ref } from 'vue'

import type { Act } from '@/features/pages/StillPanel.vue'
import type { Asked, Peeked } from '@/features/live/useLive'

/** The still that is open, if any: taking one, and adding sentences for what is on it. */
export function useStill(send: (message: Asked) => void, busy: Ref<boolean>, folded: Ref<boolean>) {
  /** The saved page of the still; 0 for none. */
  const saved = ref(0)
  /** The still that was taken before it. */
  const before = ref(0)
  const peeked = ref<Peeked | null>(null)
  let last = 0

  function take() {
    busy.value = true
    send({ type: 'still' })
  }
  function taken(page: number) {
    if (last) before.value = last
    last = saved.value = page
    folded.value = true // the list wants the room
    busy.value = false
  }
  function act(steps: Act[], added: () => void) {
    busy.value = steps.some((one) => one.perform)
    for (const one of steps) send({ type: 'act', ...one })
    added()
  }
  function close() {
    saved.value = 0
    folded.value = false
  }
  return { saved, before, peeked, take, taken, act, close }
}
