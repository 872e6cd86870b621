import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
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

/** The tests by `words` in their names and `outcome` of their last run ("" for any). */
export function useTestList(words: Ref<string>, outcome: Ref<string>, order: Ref<string>) {
  return usePaged(
    ['tests', words, outcome, order],
    (after) =>
      ask(
        api.GET('/api/tests', {
          params: { query: { q: words.value, outcome: outcome.value, order: order.value, after } },
        }),
      ),
    (page) => page.tests,
  )
}
