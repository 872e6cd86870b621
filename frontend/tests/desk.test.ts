/** What is kept at a desk: drafts, changes that wait, sizes of the workbench. */
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'

import { inWords, keepPending, pendingOf, settlePending } from '@/features/editing/pending'
import { useSelection } from '@/features/tables/useSelection'
import type { Tab } from '@/features/workbench/drawer'
import { useLayout, usualStory } from '@/features/workbench/useLayout'
import Splitter from '@/shared/Splitter.vue'
import { draftOf, draftsLike, dropDraft, keepDraft, tidyDrafts, unkept } from '@/shared/drafts'

beforeEach(() => {
  localStorage.clear()
  unkept.clear()
})

describe('drafts', () => {
  it('are found again by their keys until they are dropped', () => {
    keepDraft('comment s1', 'Ask the glaze bench')
    keepDraft('comment s2', { odd: ['value'] })
    expect(draftOf('comment s1')).toBe('Ask the glaze bench')
    expect(draftsLike('comment ').sort()).toEqual(['comment s1', 'comment s2'])
    dropDraft('comment s1')
    expect(draftOf('comment s1')).toBeUndefined()
  })

  it('are known to be lost where the desk has no room', () => {
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    keepDraft('comment s1', 'x')
    expect([...unkept]).toEqual(['comment s1'])
    const leaving = new Event('beforeunload', { cancelable: true })
    window.dispatchEvent(leaving)
    expect(leaving.defaultPrevented).toBe(true)
    dropDraft('comment s1')
    expect(unkept.size).toBe(0)
  })

  it('go after a month, and what is no draft stays', () => {
    vi.useFakeTimers({ now: Date.now() - 40 * 24 * 3600 * 1000 })
    keepDraft('old', 1)
    vi.useRealTimers()
    keepDraft('new', 2)
    localStorage.setItem('theme', 'night')
    tidyDrafts()
    expect([draftOf('old'), draftOf('new'), localStorage.getItem('theme')]).toEqual([undefined, 2, 'night'])
  })
})

describe('changes that wait', () => {
  const edit = (value: string) => ({ do: 'change', step: 's', fields: { inputs: { value } } }) as never

  it('are there in the order in which they were made, each test its own', () => {
    vi.useFakeTimers()
    for (const key of ['c', 'a', 'b']) {
      keepPending(1, { key, base: 3, edit: edit(key) })
      vi.advanceTimersByTime(5)
    }
    keepPending(12, { key: 'x', base: 1, edit: edit('x') })
    vi.useRealTimers()
    expect(pendingOf(1).map((one) => one.key)).toEqual(['c', 'a', 'b'])
    settlePending(1, { key: 'c', base: 3, edit: edit('c') })
    expect(pendingOf(1).map((one) => one.key)).toEqual(['a', 'b'])
    expect(pendingOf(12)).toHaveLength(1)
  })

  it('are said in words that can be typed again', () => {
    expect(inWords(edit('Moon jar'))).toBe('value “Moon jar”')
  })
})

describe('the sizes of the workbench', () => {
  it('are usual ones until they are drawn, for each drawer its own', () => {
    const tab = ref<Tab>('rows')
    const layout = useLayout(tab)
    expect(layout.story.size.value).toBe(usualStory(window.innerWidth))
    const rows = layout.drawer.size.value
    layout.drawer.size.value = 300
    tab.value = 'text'
    expect(layout.drawer.size.value).not.toBe(300)
    tab.value = 'rows'
    expect(layout.drawer.size.value).toBe(300)
    layout.drawer.usual()
    expect(layout.drawer.size.value).toBe(rows)
  })

  it('never leave the stage without room', () => {
    const layout = useLayout(ref<Tab>('rows'))
    layout.story.size.value = 5000
    expect(layout.story.size.value).toBe(layout.story.most.value)
    expect(layout.story.most.value).toBeLessThan(window.innerWidth)
  })

  it('give the room of the drawer away for a while without changing how somebody left it', () => {
    const { folded, aside } = useLayout(ref<Tab>('rows'))
    for (const left of [true, false]) {
      folded.value = left
      aside.value = true
      expect(folded.value).toBe(true)
      aside.value = false
      expect(folded.value).toBe(left)
    }
    aside.value = true
    folded.value = false // opened all the same
    expect(aside.value).toBe(false)
  })

  it('are there again after a reload', async () => {
    useLayout(ref<Tab>('rows')).full.value = true
    await nextTick()
    expect(useLayout(ref<Tab>('rows')).full.value).toBe(true)
  })
})

describe('the line between two parts', () => {
  const line = (size = 400) => mount(Splitter, { props: { label: 'Width', size, least: 300, most: 500 } })

  it.each([
    ['ArrowLeft', 424],
    ['ArrowRight', 376],
  ])('is drawn by %s', async (key, size) => {
    const drawn = line()
    await drawn.trigger('keydown', { key })
    expect(drawn.emitted('size')).toEqual([[size]])
  })

  it('stays within what both need, and goes back to the usual', async () => {
    const drawn = line(495)
    await drawn.trigger('keydown', { key: 'ArrowLeft' })
    expect(drawn.emitted('size')).toEqual([[500]])
    await drawn.trigger('keydown', { key: 'Home' })
    await drawn.trigger('dblclick')
    expect(drawn.emitted('usual')).toHaveLength(2)
    expect(drawn.attributes('aria-valuenow')).toBe('495')
  })
})

describe('chosen cells', () => {
  it('are a block from where it began to where it ends, within the grid', () => {
    const chosen = useSelection(ref(4), ref(3))
    chosen.start(2, 1)
    expect(chosen.many.value).toBe(false)
    chosen.extend(-1, 1)
    expect(chosen.cells()).toEqual([
      [
        [1, 1],
        [1, 2],
      ],
      [
        [2, 1],
        [2, 2],
      ],
    ])
    chosen.extend(9, 9)
    expect(chosen.has(3, 2)).toBe(true)
    expect(chosen.has(1, 1)).toBe(false)
  })
})
