import { computed, ref, watch } from 'vue'
import type { Ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes, Test } from '@/api/client'
import { useResults, useRun } from '@/api/queries'
import { useAct } from '@/shared/acting'

import type { Edits } from '@/features/editing/useEdits'

/** What is to be run: which rows, where; 0 for the environment of the test. */
export interface Asked {
  kind: 'try' | 'run'
  rows: string
  environment?: number
  browsers?: string[]
  version?: number
}

/** The run that was started here: starting and cancelling it, and which of its rows is looked at. */
export function useRunning(test: Ref<Test | undefined>, edits: Edits, onStarted: () => void) {
  const runId = ref(0)
  const rowId = ref(0)
  const run = useRun(runId)
  const results = useResults(rowId)
  const going = computed(() => ['queued', 'running'].includes(run.data.value?.run.state ?? ''))
  const row = computed(() => run.data.value?.casts.find((one) => one.id === rowId.value))
  /** What is to be seen of it: the row that is looked at while it runs, else one that does. */
  const live = computed(() =>
    [row.value, ...(run.data.value?.casts ?? [])].find((one) => one?.outcome === 'running'),
  )

  /** While a run is under way, follow the row that runs; then stay on the first that failed. */
  watch(
    () => run.data.value?.casts,
    (rows) => {
      if (!rows) return
      const running = rows.find((one) => one.outcome === 'running')
      if (running) rowId.value = running.id
      else if (!rows.some((one) => one.id === rowId.value) || !going.value)
        rowId.value = (rows.find((one) => one.outcome === 'failed') ?? rows[0])?.id ?? 0
    },
  )

  /** What is wrong with the rows; `ahead` of a run with what was to be started. */
  const checked = ref<{ found: Shapes['DataCheck']; ahead?: Asked } | null>(null)
  async function checkData(rows: string, ahead?: Asked): Promise<boolean> {
    const path = { id: test.value!.id }
    const found = await ask(api.GET('/api/tests/{id}/data-check', { params: { path, query: { rows } } }))
    if (ahead && !found.problems.length) return true
    checked.value = { found, ahead }
    return false
  }

  /** Queue what was asked for, unless its rows have mistakes that nobody has seen yet. */
  async function queue({ asked, sure }: { asked: Asked; sure: boolean }) {
    const { id, columns } = test.value!
    await edits.settled() // a row that was just ticked or typed has to be there
    const rowsMatter = columns.length > 0 && !asked.version
    if (!sure && rowsMatter && !(await checkData(asked.rows, asked))) return null
    checked.value = null
    const { environment, version, browsers = [], ...rest } = asked
    const body = { ...rest, browsers, environment: environment || null, version: version ?? null }
    return ask(api.POST('/api/tests/{id}/runs', { params: { path: { id } }, body }))
  }
  const starting = useAct(queue, {
    done: (made) => {
      if (!made) return
      rowId.value = 0
      runId.value = made.run.id
      onStarted()
    },
  })
  async function start(asked: Asked, sure = false) {
    if (test.value) await starting.act({ asked, sure })
  }
  /** Look at a run that was started elsewhere. */
  function follow(id: number) {
    if (!id || runId.value === id) return
    rowId.value = 0
    runId.value = id
    onStarted()
  }
  const { act: cancel } = useAct(() =>
    ask(api.POST('/api/runs/{id}/cancel', { params: { path: { id: runId.value } } })),
  )

  /** After the first green run on record, offer to mark what ran as the baseline. */
  const declined = ref(0)
  const clean = computed(() => {
    const made = run.data.value
    const first = made?.run.state === 'passed' && made.run.kind === 'run' && made.baseline === null
    if (made?.differs.length) return null // nothing to hold others against
    return first && test.value?.baseline === null && declined.value !== made.run.id ? made : null
  })

  return { rowId, run, results, going, row, live, checked, checkData, start, follow, cancel, declined, clean }
}
