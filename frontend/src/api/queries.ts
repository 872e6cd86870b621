import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Ref } from 'vue'

import { api, ask } from './client'
import type { Test } from './client'
import { useFollowed } from './presence'

export function useTest(id: Ref<number>) {
  const queries = useQueryClient()
  return useQuery({
    queryKey: computed(() => ['test', id.value]),
    queryFn: async ({ queryKey }) => {
      const asked = queryKey[1] as number // the id may be another by now
      const got = await ask(api.GET('/api/tests/{id}', { params: { path: { id: asked } } }))
      // An edit may have been answered while this was under way; what is older must not replace it.
      const here = queries.getQueryData<Test>(['test', asked])
      return here && here.version > got.version ? here : got
    },
  })
}

/** The labels that tests have, each with how many have it. */
export const useLabels = () =>
  useQuery({ queryKey: ['tests', 'labels'], queryFn: () => ask(api.GET('/api/labels')) })

export const useEnvironments = () =>
  useQuery({ queryKey: ['environments'], queryFn: () => ask(api.GET('/api/environments')) })

export const useCatalogue = () =>
  useQuery({ queryKey: ['catalogue'], queryFn: () => ask(api.GET('/api/catalogue')), staleTime: Infinity })

/** The browsers that rows can run in; which of them stations offer changes with the stations. */
export const useBrowsers = () =>
  useQuery({ queryKey: ['browsers'], queryFn: () => ask(api.GET('/api/browsers')), refetchInterval: 10_000 })

/** What browsers are called, by what a column says of them. */
export function useBrowserTitles() {
  const browsers = useBrowsers()
  return (name: string) => browsers.data.value?.browsers.find((one) => one.name === name)?.title ?? name
}

export const useStations = () =>
  useQuery({ queryKey: ['stations'], queryFn: () => ask(api.GET('/api/stations')), refetchInterval: 5000 })

export function useRun(id: Ref<number>) {
  useFollowed(() => id.value)
  return useQuery({
    queryKey: computed(() => ['run', id.value]),
    queryFn: () => ask(api.GET('/api/runs/{id}', { params: { path: { id: id.value } } })),
    enabled: computed(() => id.value > 0),
  })
}

/** A flow and what calls it; 0 for none. */
export const useFlow = (id: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['flows', 'one', id.value]),
    queryFn: () => ask(api.GET('/api/flows/{id}', { params: { path: { id: id.value } } })),
    enabled: computed(() => id.value > 0),
  })

/** What uses a shared table; 0 for none. */
export const useSharedTable = (id: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['tables', 'one', id.value]),
    queryFn: () => ask(api.GET('/api/tables/{id}', { params: { path: { id: id.value } } })),
    enabled: computed(() => id.value > 0),
  })

export const useElement = (key: Ref<string>) =>
  useQuery({
    queryKey: computed(() => ['element', key.value]),
    queryFn: () => ask(api.GET('/api/elements/{key}', { params: { path: { key: key.value } } })),
    enabled: computed(() => key.value !== ''),
  })

export const useFiles = (test: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['files', test.value]),
    queryFn: () => ask(api.GET('/api/tests/{id}/files', { params: { path: { id: test.value } } })),
  })

export const useResults = (cast: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['results', cast.value]),
    queryFn: () => ask(api.GET('/api/casts/{id}/results', { params: { path: { id: cast.value } } })),
    enabled: computed(() => cast.value > 0),
  })

/** The results of an earlier time that a row was played; 0 for none. */
export const useEarlierResults = (cast: Ref<number>, taking: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['results', 'earlier', cast.value, taking.value]),
    queryFn: () =>
      ask(
        api.GET('/api/casts/{id}/results', {
          params: { path: { id: cast.value }, query: { taking: taking.value } },
        }),
      ),
    enabled: computed(() => cast.value > 0 && taking.value > 0),
  })

/** Whether playing a test did what recording it did. */
export const useProof = (test: Ref<number>) =>
  useQuery({
    queryKey: computed(() => ['proof', test.value]),
    queryFn: () => ask(api.GET('/api/tests/{id}/proof', { params: { path: { id: test.value } } })),
  })

/** The rows of a test; 0 for none. */
export const useTable = (test: () => number) =>
  useQuery({
    queryKey: computed(() => ['test', test(), 'rows']),
    queryFn: () => ask(api.GET('/api/tests/{id}/table', { params: { path: { id: test() } } })),
    enabled: computed(() => test() > 0),
  })

/** What it can be asked of what a change would touch. */
export type Thing = 'element' | 'page' | 'flow' | 'table' | 'variable' | 'environment'
