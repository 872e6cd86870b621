/** Long lists: read page by page, shown by one table, chosen from by letters. */
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, defineComponent, h, ref } from 'vue'
import type { Ref } from 'vue'

import ListTable from '@/shared/ListTable.vue'
import PickOne from '@/shared/PickOne.vue'
import RowMenu from '@/shared/RowMenu.vue'
import { usePaged } from '@/shared/lists'
import type { Listed, Named, Paged } from '@/shared/lists'

class Resizes {
  observe() {}
  disconnect() {}
}
beforeEach(() => void vi.stubGlobal('ResizeObserver', Resizes))

const PLUGINS = () => [[VueQueryPlugin, { queryClient: new QueryClient() }]] as never

/** Five shelves in pages of two, as a server gives them. */
function shelves(words: Ref<string> = ref('')) {
  const asked: string[] = []
  let list!: ReturnType<typeof usePaged<{ names: string[]; next: string }, Named>>
  const page = defineComponent({
    setup() {
      list = usePaged(
        ['shelves', words],
        async (after) => {
          asked.push(`${words.value} after ${after}`)
          const all = [1, 2, 3, 4, 5].map((n) => `Shelf ${n}`).filter((one) => one.includes(words.value))
          const begin = Number(after || 0)
          const next = begin + 2 < all.length ? String(begin + 2) : ''
          return { names: all.slice(begin, begin + 2), next }
        },
        (one) => one.names.map((name) => ({ id: Number(name.slice(-1)), name })),
      )
      return () => h('div')
    },
  })
  mount(page, { global: { plugins: PLUGINS() } })
  return { list, asked }
}
const names = (list: Listed<Named>) => list.rows.value.map((one) => one.name.slice(-1)).join('')

describe('a list that is read page by page', () => {
  it('goes on where the page before ended, and ends', async () => {
    const { list, asked } = shelves()
    await flushPromises()
    expect([names(list), list.more.value]).toEqual(['12', true])
    for (const now of ['1234', '12345']) {
      list.next()
      await flushPromises()
      expect(names(list)).toBe(now)
    }
    expect(list.more.value).toBe(false)
    expect(asked).toEqual([' after ', ' after 2', ' after 4'])
  })

  it('begins anew with other words, and shows what it had until those come', async () => {
    const words = ref('')
    const { list } = shelves(words)
    await flushPromises()
    words.value = '5'
    expect(names(list)).toBe('12')
    await flushPromises()
    expect([names(list), list.more.value]).toEqual(['5', false])
  })
})

describe('a table', () => {
  const COLUMNS = [
    { id: 'name', title: 'Name', order: 'name' },
    { id: 'acts', title: 'Actions', hidden: true },
  ]
  function table(list: Partial<Paged<Named>>, order = 'name') {
    const rows = ref([{ id: 1, name: 'Shelf 1' }])
    return mount(ListTable<Named>, {
      props: {
        list: { rows, more: ref(false), busy: ref(false), next: vi.fn(), ...list },
        columns: COLUMNS,
        order,
        role: 'shelf',
      },
      slots: { name: ({ row }: { row: Named }) => h('b', row.name) },
    })
  }

  it('has a row for each, titles also for those who can not see, and its order', () => {
    const one = table({})
    expect(one.findAll('[data-role=shelf]').map((row) => row.text())).toEqual(['Shelf 1'])
    expect(one.get('th').attributes('aria-sort')).toBe('ascending')
    expect(one.get('th .sr-only').text()).toBe('Actions')
    expect(one.text()).not.toContain('Show more')
  })

  it('asks for more where there is more, once at a time', async () => {
    const next = vi.fn()
    const one = table({ more: ref(true), next })
    await one.findAll('button').at(-1)!.trigger('click')
    expect(next).toHaveBeenCalledOnce()
    const busy = table({ more: ref(true), busy: ref(true) })
    expect(busy.findAll('button').at(-1)!.attributes('disabled')).toBeDefined()
  })

  it('is sorted by the head that is pressed', async () => {
    const one = table({}, 'changed')
    expect(one.get('th').attributes('aria-sort')).toBeUndefined()
    await one.get('th button').trigger('click')
    expect(one.emitted('update:order')).toEqual([['name']])
  })
})

describe('choosing one of many', () => {
  const ALL = ['Ash', 'Celadon', 'Tenmoku'].map((name, place) => ({ id: place + 1, name }))
  function picking(given: { none?: string; more?: boolean } = {}) {
    const list = (words: Ref<string>): Listed<Named> => ({
      rows: computed(() => ALL.filter((one) => one.name.toLowerCase().includes(words.value.toLowerCase()))),
      more: ref(given.more ?? false),
    })
    const one = mount(PickOne<Named>, {
      props: { list, label: 'Glaze', none: given.none, modelValue: ALL[0]! },
      attachTo: document.body,
    })
    const input = one.get('input')
    const shown = () => one.findAll('[role=option]').map((option) => option.text())
    const open = async () => {
      await input.trigger('focus')
      await one.get('button').trigger('click')
      await flushPromises()
    }
    return { one, input, shown, open, chosen: () => one.emitted('update:modelValue')?.at(-1)?.[0] }
  }

  it('shows what is chosen, and all there is when it opens', async () => {
    const glaze = picking()
    expect((glaze.input.element as HTMLInputElement).value).toBe('Ash')
    await glaze.open()
    expect(glaze.shown()).toEqual(['Ash', 'Celadon', 'Tenmoku'])
  })

  it('offers nothing first where nothing can be chosen, but not to who looks for something', async () => {
    vi.useFakeTimers()
    const glaze = picking({ none: 'no glaze' })
    await glaze.input.trigger('focus')
    await glaze.one.get('button').trigger('click')
    await vi.advanceTimersByTimeAsync(300)
    expect(glaze.shown()).toEqual(['no glaze', 'Ash', 'Celadon', 'Tenmoku'])
    await glaze.input.setValue('ten')
    await vi.advanceTimersByTimeAsync(300)
    expect(glaze.shown()).toEqual(['Tenmoku'])
    await glaze.input.trigger('keydown', { key: 'Enter' })
    await vi.advanceTimersByTimeAsync(300)
    vi.useRealTimers()
    expect(glaze.chosen()).toEqual(ALL[2])
  })

  it('says that there are more than it shows', async () => {
    const glaze = picking({ more: true })
    await glaze.open()
    expect(glaze.one.text()).toContain('There are more')
  })
})

describe('the menu of a row', () => {
  it('does what is pressed, and nothing before', async () => {
    const done: string[] = []
    const entries = ['Copy', 'Delete…'].map((words) => ({ words, act: () => done.push(words) }))
    const menu = mount(RowMenu, { props: { label: 'Actions for Vase', entries }, attachTo: document.body })
    expect(menu.get('button').attributes('aria-label')).toBe('Actions for Vase')
    expect(menu.findAll('[role=menuitem]')).toHaveLength(0)
    await menu.get('button').trigger('click')
    await flushPromises()
    const [, remove] = menu.findAll('[role=menuitem]')
    await remove!.trigger('click')
    expect(done).toEqual(['Delete…'])
  })
})
