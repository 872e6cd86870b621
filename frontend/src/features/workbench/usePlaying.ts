import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import type { Ref } from 'vue'

import type { Test } from '@/api/client'
import { complain, say, unsay } from '@/shared/notes'

import type { Edits } from '@/features/editing/useEdits'
import type { Asked } from '@/features/live/useLive'

const PROOF = 'proof'

/** Playing the test, or a part of it, on the stage; `begins` is called before anything is played. */
export function usePlaying(
  test: Ref<Test | undefined>,
  edits: Edits,
  send: (message: Asked) => void,
  busy: Ref<boolean>,
  begins: () => void,
) {
  const queries = useQueryClient()
  /** The sentence that is being played. */
  const playing = ref('')
  let triedWithout = 0

  function start(message: Asked) {
    begins()
    busy.value = true
    send(message)
  }
  /** Play the test up to a sentence on the stage, and record on from behind it. */
  const playTo = (step: string, record: boolean) => start({ type: 'play to', step, record })

  /** Take a range out, play up to where it began, and record what is to stand there instead. */
  async function recordInPlace(ids: string[]) {
    const order = test.value?.steps.map((step) => step.id) ?? []
    const before = order[Math.min(...ids.map((id) => order.indexOf(id))) - 1] ?? ''
    if (!(await edits.edit({ do: 'remove', steps: ids }))) return
    say(
      `${ids.length} ${ids.length === 1 ? 'sentence' : 'sentences'} taken out; record what comes instead.`,
      () => void edits.undo(),
    )
    playTo(before, true)
  }
  /** Play everything but some sentences, to see whether the test does without them. */
  function tryWithout(without: string[]) {
    const last = test.value?.steps.at(-1)
    if (!last) return
    triedWithout = without.length
    start({ type: 'play to', step: last.id, without })
  }
  /** Play the whole test on a fresh stage, and hold every page against what the recording saw. */
  function prove() {
    unsay(PROOF)
    start({ type: 'prove' })
  }

  function played(said: { failed: string; hint: string }) {
    playing.value = ''
    busy.value = false
    const without = triedWithout
    triedWithout = 0
    if (said.failed) complain(new Error(`${said.failed} ${said.hint}`.trim()))
    else if (without) say('The rest plays without them.')
  }
  function proved(differ: number) {
    if (!differ) say('Proved: after every sentence the page was as it was while recording.', undefined, PROOF)
    void queries.invalidateQueries({ queryKey: ['proof', test.value?.id] })
  }
  return { playing, playTo, recordInPlace, tryWithout, prove, played, proved }
}
