import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'

export type Breakpoint = Shapes['BreakpointOut']
export type Condition = Shapes['ConditionIn']
/** What a breakpoint is, without what is only told of it. */
export type Point = Pick<Breakpoint, 'place' | 'step' | 'only_in' | 'enabled' | 'condition'>

const KEY = ['breakpoints']
export const ALWAYS: Condition = { value: '', comparison: 'is', expected: '', times: 1, row: 0 }

/** One's own breakpoints, in whatever test or flow; they stop one's own rehearsals. */
export function useBreakpoints() {
  const queries = useQueryClient()
  const query = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET('/api/breakpoints')) })
  const list = computed(() => query.data.value?.breakpoints ?? [])
  const off = computed(() => query.data.value?.off ?? false)
  const means = { done: (now: Shapes['BreakpointList']) => queries.setQueryData(KEY, now) }

  const { act: put } = useAct((point: Point) => ask(api.PUT('/api/breakpoints', { body: point })), means)
  const { act: remove } = useAct(
    (gone: Shapes['BreakpointsGone']) => ask(api.POST('/api/breakpoints/remove', { body: gone })),
    means,
  )
  const { act: switchAll } = useAct(
    (now: boolean) => ask(api.PUT('/api/breakpoints/off', { body: { off: now } })),
    means,
  )
  const at = (place: number, step: string) =>
    list.value.find((one) => one.place === place && one.step === step)

  /** Set a breakpoint where there is none, and take out the one that is there. */
  function toggle(place: number, step: string): void {
    if (at(place, step)) void remove({ place, steps: [step] })
    else void put({ place, step, only_in: null, enabled: true, condition: ALWAYS })
  }
  return { list, off, at, toggle, put, remove, switchAll }
}
export type Breakpoints = ReturnType<typeof useBreakpoints>
