import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Ref } from 'vue'

import { api, ask } from '@/api/client'
import type { Shapes } from '@/api/client'
import { useAct } from '@/shared/acting'

export type Plan = Shapes['PlanOut']
export type Body = Shapes['PlanBody']
export type Pick = Shapes['PickShape']

/** A plan that is being worked on: every change is saved at once, and is a version of it. */
export function usePlan(id: Ref<number>) {
  const queries = useQueryClient()
  const key = computed(() => ['plans', 'one', id.value])
  const path = () => ({ path: { id: id.value } })
  const query = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET('/api/plans/{id}', { params: path() })),
  })
  /** What was changed at this desk and is not answered yet: the next change goes on from there. */
  const ahead = ref<Partial<Body>>({})
  const plan = computed(() => {
    const saved = query.data.value
    return saved && { ...saved, plan: { ...saved.plan, ...ahead.value } }
  })

  const { act: put, busy } = useAct(
    ({ name, ...parts }: Partial<Body> & { name?: string }) => {
      const now = query.data.value!
      const body = { base: now.version, name: name ?? now.name, plan: { ...now.plan, ...parts } }
      return ask(api.PUT('/api/plans/{id}', { params: path(), body }))
    },
    {
      stale: () => [
        ['plans', 'list'],
        ['plans', 'versions', id.value],
        ['plans', 'one', id.value],
      ],
      done: (now) => queries.setQueryData(['plans', 'one', now.id], now),
    },
  )
  const saving = new Set<Promise<unknown>>()
  async function save(change: Partial<Body> & { name?: string }) {
    const parts: Partial<Body> & { name?: string } = { ...change }
    delete parts.name
    ahead.value = { ...ahead.value, ...parts }
    const saved = put(change)
    saving.add(saved)
    await saved
    saving.delete(saved)
    // Parts that were changed again meanwhile stay ahead.
    const left = Object.entries(ahead.value).filter(([part, value]) => value !== parts[part as keyof Body])
    ahead.value = Object.fromEntries(left)
  }
  /** Wait for what is being saved; tells whether all of it was. */
  const settled = async () => (await Promise.all(saving)).every(Boolean)
  /** What it would come to as it is now. */
  const body = useDebounce(
    computed(() => plan.value?.plan),
    150,
  )
  const outlook = useQuery({
    queryKey: computed(() => ['plans', 'outlook', body.value]),
    queryFn: () => ask(api.POST('/api/plans/outlook', { body: body.value! })),
    enabled: computed(() => Boolean(body.value)),
    placeholderData: (before: Shapes['OutlookOut'] | undefined) => before,
    staleTime: 5000,
  })
  return { query, plan, save, settled, busy, outlook }
}

/** A run of a plan, read anew whenever something of it changes. */
export const usePlanRun = (id: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['plan run', id.value]),
    queryFn: () => ask(api.GET('/api/plan-runs/{id}', { params: { path: { id: id.value } } })),
  })
