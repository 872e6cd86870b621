/** What reviewing draws and walks through: boxes over pictures, words of changes, the arrow keys. */
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import { called, WHAT } from '@/features/besides/words'
import Shine from '@/features/blind/Shine.vue'
import SpotCard from '@/features/blind/SpotCard.vue'
import { KIND_NAMES, wordsOf } from '@/features/blind/words'
import type { Spot } from '@/features/blind/words'
import { OUTCOMES } from '@/features/trends/colours'
import Counts from '@/features/trends/Counts.vue'
import { placed, styleOf } from '@/shared/shares'
import { useWalk } from '@/shared/walking'

const spot = (more: Partial<Spot> = {}): Spot => ({
  kind: 'value',
  name: 'Price',
  where: '',
  before: '€ 5.40',
  after: '€ 5.41',
  weight: 2,
  depends: false,
  box: [0.1, 0.2, 0.3, 0.1],
  by: '',
  step: '',
  offer: null,
  ...more,
})

describe('a change in words', () => {
  it('says what would be otherwise, and in which row and column', () => {
    expect(wordsOf(spot())).toBe('“€ 5.40” becomes “€ 5.41”')
    expect(wordsOf(spot({ where: 'Price, in the row of Moon jar' }))).toContain(
      '(Price, in the row of Moon jar)',
    )
    expect(wordsOf(spot({ kind: 'presence' }))).toBe('Price is not shown')
    expect(wordsOf(spot({ kind: 'order', before: 'a', after: 'b' }))).toContain('a and b')
  })
  it('there are for every kind, each with a name of its own', () => {
    const kinds = Object.keys(KIND_NAMES) as Spot['kind'][]
    expect(kinds).toHaveLength(8)
    expect(new Set(Object.values(KIND_NAMES)).size).toBe(8)
    for (const kind of kinds) expect(wordsOf(spot({ kind })).length).toBeGreaterThan(5)
  })
})

describe('boxes over a picture', () => {
  it('are shares of it', () => {
    expect(styleOf([0.1, 0.2, 0.5, 1])).toEqual({ left: '10%', top: '20%', width: '50%', height: '100%' })
    expect(placed([0])).toEqual({ x: '0%', y: '0%', width: '0%', height: '0%' })
  })
})

describe('a page in the dark', () => {
  const shine = (spots: Spot[]) => mount(Shine, { props: { digest: 'd', spots, chosen: null } })
  it('is lit where all is noticed, has a double edge where some is, a broken one where nothing is', () => {
    const places = [
      spot({ box: [0, 0, 0.1, 0.1], by: 'Check it' }),
      spot({ box: [0.2, 0, 0.1, 0.1], by: 'Check it' }),
      spot({ box: [0.2, 0, 0.1, 0.1], kind: 'presence' }),
      spot({ box: [0.4, 0, 0.1, 0.1] }),
      spot({ box: [0.6, 0, 0, 0] }), // what takes no room can not be shown
    ]
    const buttons = shine(places).findAll('button')
    expect(buttons.map((one) => one.classes().find((name) => /seen|part|blind/.test(name)))).toEqual([
      'seen',
      'part',
      'blind',
    ])
    expect(shine(places).findAll('mask rect')).toHaveLength(3) // the whole, and two that are lit
  })
  it('lets what is dark be chosen first, and what lies in a large thing above it', async () => {
    const inner = spot({ box: [0.1, 0.1, 0.1, 0.1], name: 'Inner' })
    const seen = spot({ box: [0, 0, 1, 1], name: 'Outer', by: 'Check it' })
    const dark = spot({ box: [0, 0, 1, 1], name: 'Outer', kind: 'presence' })
    const wrapper = shine([inner, seen, dark])
    const names = wrapper.findAll('button').map((one) => one.attributes('aria-label'))
    expect(names[0]).toContain('Outer')
    expect(names.at(-1)).toContain('Inner')
    await wrapper.findAll('button')[0]!.trigger('click')
    expect(wrapper.emitted('choose')![0]).toEqual([dark])
  })
})

describe('a blind spot', () => {
  const offer = {
    page: 1,
    node: 2,
    after: null,
    property: 'text',
    expected: 'x',
    sentence: 'Check it',
    adds: 0.04,
  }
  const card = (one: Spot, fixed = false) =>
    mount(SpotCard, { props: { spot: one, chosen: false, busy: false, fixed } })
  it('offers its check with what it adds, and adds it by one press', async () => {
    const wrapper = card(spot({ offer }))
    expect(wrapper.text()).toContain('would notice 4 % more')
    await wrapper.find('button').trigger('click')
    expect(wrapper.emitted('add')).toHaveLength(1)
  })
  it('offers nothing to who may not change the test, nor where a check notices', () => {
    expect(card(spot({ offer }), true).find('button').exists()).toBe(false)
    expect(card(spot({ by: 'Check the price' })).text()).toContain('Noticed by: Check the price')
    expect(card(spot()).text()).toContain('No check says this')
  })
})

describe('the arrow keys', () => {
  const list = () => {
    const at = ref('b')
    const wrapper = mount(
      defineComponent(() => {
        useWalk(
          () => ['a', 'b', 'c'],
          () => at.value,
          (key) => (at.value = key),
        )
        return () => h('div', [h('input', { type: 'text' }), h('input', { type: 'checkbox' })])
      }),
      { attachTo: document.body },
    )
    const press = (key: string, on = 'div') =>
      wrapper.element.ownerDocument
        .querySelector(on)!
        .dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
    return { at, press, wrapper }
  }
  it('go on and back, and stay within the list', () => {
    const { at, press, wrapper } = list()
    press('ArrowDown')
    press('ArrowDown')
    expect(at.value).toBe('c')
    for (let n = 0; n < 4; n++) press('ArrowUp')
    expect(at.value).toBe('a')
    wrapper.unmount()
  })
  it('are those of a field while one types, but not of a tick box', () => {
    const { at, press, wrapper } = list()
    press('ArrowDown', 'input[type=text]')
    expect(at.value).toBe('b')
    press('ArrowDown', 'input[type=checkbox]')
    expect(at.value).toBe('c')
    wrapper.unmount()
  })
})

describe('two plays', () => {
  it('are called by their run, row, outcome and browser', () => {
    const play = {
      cast: 1,
      run: 7,
      kind: 'run',
      test: 1,
      test_name: 'Quotes',
      version: 1,
      number: 0,
      values: {},
      browser: '',
      environment: 'Kiln Desk',
      release: '',
      outcome: 'passed',
      at: null,
    }
    expect(called(play)).toContain('run 7, its row, passed, usual browser')
    expect(called({ ...play, kind: 'try', number: 3, browser: 'firefox' })).toContain(
      'try 7, row 3, passed, firefox',
    )
    expect(new Set(Object.values(WHAT).map((one) => one.short)).size).toBe(8)
  })
})

describe('outcomes in figures', () => {
  it('show the outcomes that there are, 0 where a line has none of one', () => {
    const bars: { name: string; counts: Record<string, number> }[] = [
      { name: 'spring', counts: { passed: 3 } },
      { name: '', counts: { failed: 1 } },
    ]
    const wrapper = mount(Counts, { props: { bars, head: 'Release' } })
    expect(wrapper.findAll('th').map((one) => one.text())).toEqual(['Release', 'passed', 'failed'])
    expect(wrapper.findAll('tbody tr').map((one) => one.text())).toEqual(['spring30', 'none01'])
  })
  it('have patterns that can be drawn, or none', () => {
    for (const { decal } of OUTCOMES) expect(decal === undefined || typeof decal === 'object').toBe(true)
  })
})
