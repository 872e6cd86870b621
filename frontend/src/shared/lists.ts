import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Ref } from 'vue'

import { api, ask } from '@/api/client'

/** A column of a list: `order` is what the server calls sorting by it, largest first if `falling`. */
export interface Column {
  id: string
  title: string
  class?: string
  order?: string
  falling?: boolean
  /** Its title is there for those who can not see it only. */
  hidden?: boolean
}

/** Something that a list leads to, by its name. */
export interface Named {
  id: number
  name: string
}

/** What choosing out of a list needs of it. */
export interface Listed<T> {
  rows: Readonly<Ref<T[]>>
  more: Readonly<Ref<boolean>>
}

/** What a table needs of a list that is read page by page. */
export interface Paged<T> extends Listed<T> {
  busy: Readonly<Ref<boolean>>
  next: () => void
}

/**
 * A list that is read page by page: each page says where the next begins.
 * @param key what the list is of and filtered by
 * @param fetch asks for the page after a place in it
 * @param rows takes the rows out of a page
 */
export function usePaged<P extends { next: string }, T>(
  key: (string | Ref<unknown>)[],
  fetch: (after: string) => Promise<P>,
  rows: (page: P) => T[],
) {
  const query = useInfiniteQuery({
    queryKey: key,
    initialPageParam: '',
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) => fetch(pageParam),
    getNextPageParam: (page) => page.next || undefined,
  })
  return {
    error: query.error,
    first: computed(() => query.data.value?.pages[0]),
    rows: computed(() => query.data.value?.pages.flatMap(rows) ?? []),
    more: query.hasNextPage,
    busy: query.isFetchingNextPage,
    again: () => void query.refetch(),
    next: () => void query.fetchNextPage(),
  }
}

/** The tests by `words` in their names, `outcome` of their last run and `label` ("" for any). */
export function useTestList(
  words: Ref<string>,
  outcome: Ref<string>,
  order: Ref<string>,
  label: Ref<string> = ref(''),
) {
  return usePaged(
    ['tests', 'list', words, outcome, order, label],
    (after) =>
      ask(
        api.GET('/api/tests', {
          params: {
            query: { q: words.value, outcome: outcome.value, label: label.value, order: order.value, after },
          },
        }),
      ),
    (page) => page.tests,
  )
}

/** The tests with `words` in their names, by name. */
export const useTestNames = (words: Ref<string>) => useTestList(words, ref(''), ref('name'))

/** The flows with `words` in their names, each with what calls it. */
export function useFlowList(words: Ref<string>) {
  return usePaged(
    ['flows', words],
    (after) => ask(api.GET('/api/flows', { params: { query: { q: words.value, after } } })),
    (page) => page.flows.map((one) => ({ ...one, id: one.flow.id, name: one.flow.name })),
  )
}

/** The shared tables with `words` in their names, each with what uses it. */
export function useTableList(words: Ref<string>) {
  return usePaged(
    ['tables', words],
    (after) => ask(api.GET('/api/tables', { params: { query: { q: words.value, after } } })),
    (page) => page.tables,
  )
}

/** The pages with `words` in their titles or elements; `unused`: with elements that nothing uses. */
export function usePageList(words: Ref<string>, unused: Ref<boolean> = ref(false)) {
  return usePaged(
    ['pages', 'list', words, unused],
    (after) =>
      ask(api.GET('/api/pages', { params: { query: { q: words.value, unused: unused.value, after } } })),
    (page) => page.pages.map((one) => ({ ...one, id: one.page, name: one.page || '(no title)' })),
  )
}

/** The elements of a kind ("" for any) with `words` in their names or their pages'. */
export function useElementNames(words: Ref<string>, kind: Ref<string>) {
  return usePaged(
    ['pages', 'elements', words, kind],
    (after) =>
      ask(api.GET('/api/elements', { params: { query: { q: words.value, kind: kind.value, after } } })),
    (page) => page.elements,
  )
}

/** The people with `words` in their names. */
export function usePeople(words: Ref<string>) {
  return usePaged(
    ['people', words],
    (after) => ask(api.GET('/api/people', { params: { query: { q: words.value, after } } })),
    (page) => page.people,
  )
}

/** The plans with `words` in their names, by name. */
export function usePlanList(words: Ref<string>) {
  return usePaged(
    ['plans', 'list', words],
    (after) => ask(api.GET('/api/plans', { params: { query: { q: words.value, after } } })),
    (page) => page.plans,
  )
}
