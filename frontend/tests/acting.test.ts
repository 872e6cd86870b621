import { VueQueryPlugin, QueryClient } from '@tanstack/vue-query'
import { createApp, defineComponent, h } from 'vue'
import { expect, test, vi } from 'vitest'

import { useAct } from '@/shared/acting'
import { notes } from '@/shared/notes'

/** What a composable gives inside an application of its own. */
function within<T>(use: () => T, queries = new QueryClient()): T {
  let got: T
  const page = defineComponent({
    setup() {
      got = use()
      return () => h('div')
    },
  })
  createApp(page).use(VueQueryPlugin, { queryClient: queries }).mount(document.createElement('div'))
  return got!
}

/** A promise that is kept from outside. */
function promised() {
  let keep: (value: string) => void = () => {}
  const promise = new Promise<string>((resolve) => (keep = resolve))
  return { promise, keep }
}

test('the same thing pressed twice is done once', async () => {
  const { promise, keep } = promised()
  const send = vi.fn(() => promise)
  const { act } = within(() => useAct(send))
  const [first, second] = [act(), act()]
  keep('made')
  expect(await second).toBeUndefined()
  expect(await first).toBe('made')
  expect(send).toHaveBeenCalledTimes(1)
  await act()
  expect(send).toHaveBeenCalledTimes(2)
})

test('another thing waits for the one before, and begins once its lists are fresh', async () => {
  const queries = new QueryClient()
  const told: string[] = []
  queries.invalidateQueries = vi.fn(async () => void told.push('fresh')) as never
  const { promise, keep } = promised()
  const send = vi.fn(async (what: string) => {
    told.push(`begin ${what}`)
    if (what === 'one') await promise
    told.push(`end ${what}`)
    return what
  })
  const { act } = within(() => useAct(send, { stale: [['project']] }), queries)
  const both = [act('one'), act('two')]
  await vi.waitFor(() => expect(told).toEqual(['begin one']))
  keep('')
  expect(await Promise.all(both)).toEqual(['one', 'two'])
  expect(told).toEqual(['begin one', 'end one', 'fresh', 'begin two', 'end two', 'fresh'])
})

test('a failure is said, or shown in place; nothing is done after it', async () => {
  const done = vi.fn()
  const fail = () => Promise.reject(new Error('The kiln is full.'))
  const loud = within(() => useAct<void>(fail, { done }))
  expect(await loud.act()).toBeUndefined()
  expect(notes.map((note) => note.text)).toEqual(['The kiln is full.'])
  const still = within(() => useAct<void>(fail, { done, inPlace: true }))
  await still.act()
  expect((still.trouble.value as Error).message).toBe('The kiln is full.')
  expect(notes.length).toBe(1)
  expect(done).not.toHaveBeenCalled()
})
