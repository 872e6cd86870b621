import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp, nextTick, ref } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { Test } from '@/api/client'
import type { Edits } from '@/features/editing/useEdits'
import { leadsTo, roundsAt, roundsOf } from '@/features/rehearsing/places'
import { isAboutRehearsal, useRehearsal } from '@/features/rehearsing/useRehearsal'
import type { Asked, Said } from '@/features/live/useLive'
import { notes } from '@/shared/notes'

const step = (id: string, depth: number, action = 'press') => ({ id, depth, action })

describe('where a rehearsal is', () => {
  it('opens the flows that lead to it, and no others', () => {
    const spot = { step: 'x', calls: ['a', 'b'], flow: '3', within: [], depth: 2, sentence: '' }
    expect(leadsTo(spot, { calls: [], step: 'a' })).toBe(true)
    expect(leadsTo(spot, { calls: ['a'], step: 'b' })).toBe(true)
    expect(leadsTo(spot, { calls: [], step: 'b' })).toBe(false)
    expect(leadsTo(null, { calls: [], step: 'a' })).toBe(false)
  })

  it('tells the round of each repeat around it, in the story that it is in', () => {
    const within = ['round 2 of 3', 'Fire it', 'round 1 of 5', 'round 4']
    expect(roundsAt(within, 0)).toEqual(['round 2 of 3'])
    expect(roundsAt(within, 1)).toEqual(['round 1 of 5', 'round 4'])
    const steps = [step('r', 0, 'repeat'), step('if', 1, 'if'), step('w', 2, 'while'), step('x', 3)]
    const rounds = roundsOf(steps, 'x', ['round 1 of 5', 'round 4'])
    expect([...rounds]).toEqual([
      ['r', 'round 1 of 5'],
      ['w', 'round 4'],
    ])
    expect(roundsOf(steps, 'r', []).size).toBe(0)
  })
})

const said = (more: object): Said =>
  ({
    type: 'rehearsal',
    state: 'held',
    spot: { step: 'x', calls: [], flow: '', within: [], depth: 0, sentence: 'Press it' },
    why: 'stepped',
    told: '',
    mid: false,
    failed: null,
    ended: '',
    outcome: '',
    row: 0,
    row_id: '',
    pace: 0,
    light: true,
    cost: 0,
    hand: { account: 0, name: '' },
    here: [],
    of_run: false,
    began: '',
    moment: 1,
    ...more,
  }) as Said

describe('the rehearsal of a page', () => {
  const sent: Asked[] = []
  let settled: () => void
  function open() {
    const settling = new Promise<void>((resolve) => (settled = resolve))
    const edits = { settled: () => settling } as unknown as Edits
    const app = createApp({})
    app.use(VueQueryPlugin, { queryClient: new QueryClient() })
    const test = ref({ id: 7 } as Test)
    return app.runWithContext(() =>
      useRehearsal(
        test,
        edits,
        (one) => sent.push(one),
        () => undefined,
        0,
      ),
    )
  }
  const hear = (it: ReturnType<typeof open>, message: Said) => isAboutRehearsal(message) && it.hear(message)

  beforeEach(() => {
    sent.length = 0
    notes.length = 0
    localStorage.clear()
    sessionStorage.clear()
  })

  it('goes on only once all that was edited is saved', async () => {
    const it = open()
    const going = it.go('again')
    await Promise.resolve()
    expect(sent).toEqual([])
    settled()
    await going
    expect(sent).toEqual([{ type: 'hand', do: 'again' }])
  })

  it('holds at once, whatever is still being saved', async () => {
    const it = open()
    await it.go('hold')
    expect(sent).toEqual([{ type: 'hand', do: 'hold' }])
  })

  it('says when what held it is gone, and only then', () => {
    const it = open()
    hear(it, said({ state: 'none' }))
    expect(notes).toEqual([])
    hear(it, said({}))
    expect(it.held.value).toBe(true)
    hear(it, said({ state: 'none' }))
    expect(notes[0]?.text).toContain('The rehearsal is over')
    expect(it.there.value).toBe(false)
  })

  it('keeps what came of each sentence by the calls that lead to it, until it begins anew', () => {
    const it = open()
    hear(it, said({}))
    const one = {
      step: 'x',
      within: [],
      sentence: '',
      message: '',
      seconds: 1,
      thing: '',
      contrary: '',
      parts: [],
    }
    hear(it, { type: 'rehearsed', anew: false, steps: [{ ...one, calls: [], outcome: 'passed' }] } as Said)
    hear(it, { type: 'rehearsed', anew: false, steps: [{ ...one, calls: ['c'], outcome: 'failed' }] } as Said)
    expect(it.marks.value.get('x')?.outcome).toBe('passed')
    expect(it.marks.value.get('c/x')?.outcome).toBe('failed')
    hear(it, { type: 'rehearsed', anew: true, steps: [] } as Said)
    expect(it.marks.value.size).toBe(0)
  })

  it('does not show again what was over before the page was opened, unless the page saw it begin', async () => {
    const late = open()
    hear(late, said({ state: 'over' }))
    expect(late.there.value).toBe(false)

    hear(open(), said({})) // this page saw it held, and is opened again
    await nextTick()
    const again = open()
    hear(again, said({ state: 'over', moment: 2 }))
    expect(again.there.value).toBe(true)
    again.dismiss()
    expect(again.there.value).toBe(false)
    expect(again.marks.value.size).toBe(0)
  })

  it('knows a row of a run in hand, and promises nothing about it for later', () => {
    const it = open()
    hear(it, said({ of_run: true }))
    expect(it.ofRun.value).toBe(true)
    hear(it, said({ state: 'none' }))
    expect(notes).toEqual([])
  })

  it('goes on from what was put in before the sentence at which it is held', async () => {
    const it = open()
    settled()
    hear(it, said({ spot: { step: 'y', calls: ['c'], flow: '3', within: [], depth: 1, sentence: '' } }))
    expect(it.place.value).toBe(3)
    await it.fromHere({ calls: ['c'], step: 'n' }, true)
    expect(sent).toEqual([{ type: 'from here', calls: ['c'], step: 'n', sure: true }])
    hear(it, said({ state: 'over', moment: 2, row_id: 'r2' }))
    await it.fromHere({ calls: [], step: 'x' })
    expect(sent[1]).toMatchObject({ type: 'rehearse', row: 'r2', fresh: false, start: { step: 'x' } })
  })

  it('stays where it is when it is there already', async () => {
    const it = open()
    settled()
    hear(it, said({}))
    await it.onTo({ calls: [], step: 'x' })
    expect(sent).toEqual([])
    await it.onTo({ calls: ['c'], step: 'x' })
    expect(sent).toEqual([{ type: 'on to', calls: ['c'], step: 'x' }])
  })

  it('plays up to a sentence that something is missing for, then holds there', async () => {
    const it = open()
    settled()
    hear(it, said({}))
    await it.upTo({ calls: [], step: 'y' })
    expect(sent.at(-1)).toEqual({ type: 'from here', calls: [], step: '' })
    hear(it, said({ moment: 2 }))
    await vi.waitFor(() => expect(sent.at(-1)).toEqual({ type: 'on to', calls: [], step: 'y' }))
  })
})
