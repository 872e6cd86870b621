/** Two change one sentence: what only one of them touched stands, for the rest a person is asked. */
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { waitsFor } from '@/features/editing/pending'
import type { Pending } from '@/features/editing/pending'
import { placedAgain, rebased, settingsAgain } from '@/features/editing/rebasing'
import { clash, decide, merged } from '@/shared/conflicts'
import { question } from '@/shared/questions'

import { step, testOf } from './made'

const change = (fields: object) => ({ do: 'change' as const, step: 's', fields })
const values = (inputs: Record<string, string>, more: object = {}) => testOf([step('s', { inputs, ...more })])

beforeEach(() => {
  while (clash.value) clash.value.settle(null)
  while (question.value) question.value.settle(false)
})

describe('a change of a sentence that somebody else changed meanwhile', () => {
  it('stands where they touched something else', async () => {
    const edit = change({ inputs: { value: 'Vase' } })
    const now = values({ value: 'Jar', speed: 'slow' }, { comment: 'theirs' })
    expect(await rebased(edit, values({ value: 'Jar' }), now)).toEqual(edit)
    expect(clash.value).toBeUndefined()
  })

  it.each([
    ['both', 'both'],
    [null, null],
  ])('asks where they changed the same value, and takes what the person says (%j)', async (said, value) => {
    const given = rebased(
      change({ inputs: { value: 'Vase' } }),
      values({ value: 'Jar' }),
      values({ value: 'Bowl' }),
    )
    await vi.waitFor(() => expect(clash.value).toBeDefined())
    expect([clash.value!.mine, clash.value!.theirs]).toEqual(['Vase', 'Bowl'])
    clash.value!.settle(said)
    expect(await given).toEqual(value === null ? null : change({ inputs: { value } }))
  })

  it('can not be made where the sentence is gone or does something else', async () => {
    const edit = change({ title: 'x' })
    expect(await rebased(edit, values({}), testOf([]))).toBeUndefined()
    expect(await rebased(edit, values({}), testOf([step('s', { action: 'press' })]))).toBeUndefined()
  })

  it('knows a value that this page has given itself', async () => {
    const own = new Map([['s value', 'Bowl']])
    const edit = change({ inputs: { value: 'Vase' } })
    expect(await rebased(edit, values({ value: 'Jar' }), values({ value: 'Bowl' }), own)).toEqual(edit)
  })

  it('asks about a switch in words', async () => {
    const given = rebased(change({ enabled: false }), values({}), values({}, { enabled: 'odd' as never }))
    await vi.waitFor(() => expect(question.value).toBeDefined())
    expect(question.value!.text).toContain('yours is off')
    question.value!.settle(true)
    expect(await given).toEqual(change({ enabled: false }))
  })
})

describe('a sentence that is deleted or moved while somebody else changes it', () => {
  const remove = (...steps: string[]) => ({ do: 'remove' as const, steps })
  const story = (...said: string[]) =>
    testOf(said.map((text, n) => step('abc'[n]!, { inputs: { text } })).filter((one) => one.inputs.text))

  it.each([
    [true, remove('b')],
    [false, null],
  ])('is asked about before it is deleted (%j)', async (yes, left) => {
    const given = placedAgain(remove('b'), story('One', 'Two'), story('One', 'Twice'))
    await vi.waitFor(() => expect(question.value).toBeDefined())
    expect(question.value!.text).toContain('sentence 2 (text is “Twice”)')
    question.value!.settle(yes)
    expect(await given).toEqual(left)
  })

  it('is deleted without a word where only others were changed, and those that are gone left out', async () => {
    expect(await placedAgain(remove('a', 'b'), story('One', 'Two', 'Three'), story('One', '', '3'))).toEqual(
      remove('a'),
    )
    expect(await placedAgain(remove('b'), story('One', 'Two'), story('One'))).toBeNull()
    expect(question.value).toBeUndefined()
  })

  it('is moved as meant, whatever it says by now; not where it is gone', async () => {
    const move = { do: 'move' as const, steps: ['a'], after: 'b' }
    expect(await placedAgain(move, story('One', 'Two'), story('Once', 'Two'))).toEqual(move)
    expect(await placedAgain(move, story('One', 'Two'), story('Once'))).toBeUndefined()
  })

  it('is deleted without a word where only what is worked out of it differs', async () => {
    const now = testOf([step('a', { sentence: 'Press “Sign in”', problems: [{}] as never })])
    expect(await placedAgain(remove('a'), testOf([step('a')]), now)).toEqual(remove('a'))
  })

  it('says while it waits what is to become of it', () => {
    const pending = (edit: object) => ({ key: 'k', base: 1, edit }) as Pending
    const waiting = [
      pending({ do: 'change', step: 'a', fields: { inputs: { text: 'x' } } }),
      pending({ do: 'switch', steps: ['b'], on: false }),
      pending(remove('c')),
      pending({ do: 'change', step: 'd', fields: { comment: 'x' } }),
    ]
    expect(['a', 'b', 'c', 'd', 'e'].map((one) => waitsFor(waiting, one))).toEqual([
      '',
      'waits to be switched off',
      'waits to be deleted',
      'not saved yet',
      '',
    ])
  })

  it('rows are asked about by their numbers', async () => {
    const rows = (value: string) => testOf([], { rows: [{ id: 'r', values: { piece: value } }] } as never)
    const edit = { do: 'remove rows' as const, rows: ['r'] }
    const given = placedAgain(edit, rows('Vase'), rows('Bowl'))
    await vi.waitFor(() => expect(question.value).toBeDefined())
    expect(question.value!.text).toContain('row 1 (piece is “Bowl”)')
    question.value!.settle(true)
    expect(await given).toEqual(edit)
  })
})

describe('settings that two change', () => {
  it('are asked about one by one', async () => {
    const [was, is] = [
      { limit: 5, retries: 0 },
      { limit: 9, retries: 0 },
    ]
    const edit = { do: 'set settings' as const, fields: { limit: 7, retries: 2 } }
    const given = settingsAgain(
      edit,
      testOf([], { settings: was as never }),
      testOf([], { settings: is as never }),
    )
    await vi.waitFor(() => expect(question.value).toBeDefined())
    question.value!.settle(false)
    expect(await given).toEqual({ do: 'set settings', fields: { retries: 2 } })
  })
})

describe('what is asked', () => {
  it('is asked one after the other', async () => {
    const [first, second] = [decide('a', '1', '2'), decide('b', '3', '4')]
    expect(clash.value!.what).toBe('a')
    clash.value!.settle('1')
    expect(clash.value!.what).toBe('b')
    clash.value!.settle(null)
    expect([await first, await second]).toEqual(['1', null])
  })

  it('is not asked where nothing is at stake', async () => {
    expect(await merged('x', 'mine', 'was', 'was')).toBe('mine')
    expect(await merged('x', 'same', 'was', 'same')).toBe('same')
  })
})
