/** A field that is saved when it is left: nothing typed is lost, and nobody's text is wiped out. */
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'

import { connection } from '@/api/connection'
import Draft from '@/shared/Draft.vue'
import { clash } from '@/shared/conflicts'
import { draftOf, unkept } from '@/shared/drafts'

beforeEach(() => {
  localStorage.clear()
  unkept.clear()
  connection.down = false
})

/** A field with a text, and what it was asked to save. */
function field(given: { value?: string; keep?: string; onSave?: (text: string) => unknown } = {}) {
  const saved: string[] = []
  const one = mount(Draft, {
    props: { value: 'Vase', onSave: (text: string) => saved.push(text), ...given },
    attrs: { 'aria-label': 'Name' },
    attachTo: document.body,
  })
  const input = one.get('input')
  return {
    saved,
    input,
    shown: () => (input.element as HTMLInputElement).value,
    marked: () => input.classes().includes('unsaved'),
    comes: (value: string) => one.setProps({ value }),
    leave: async () => {
      await input.trigger('blur')
      await settled()
    },
    async type(text: string) {
      await input.trigger('focus')
      await input.setValue(text)
    },
    gone: () => one.unmount(),
  }
}
const settled = async () => {
  for (let turn = 0; turn < 5; turn += 1) await nextTick()
}

describe('a draft', () => {
  it('is saved when the field is left, and only when it is another text', async () => {
    const name = field()
    await name.type('Moon jar')
    await name.leave()
    expect(name.saved).toEqual(['Moon jar'])
    const looked = field()
    await looked.type('Vase')
    await looked.leave()
    expect(looked.saved).toEqual([])
  })

  it('is given up by Escape', async () => {
    const name = field({ keep: 'name of test 7' })
    await name.type('Moon jar')
    expect(draftOf('name of test 7')).toEqual({ text: 'Moon jar', was: 'Vase' })
    await name.input.trigger('keydown', { key: 'Escape' })
    await name.leave()
    expect([name.shown(), name.saved, draftOf('name of test 7')]).toEqual(['Vase', [], undefined])
  })

  it('is not wiped out by what comes in while it is typed', async () => {
    const name = field()
    await name.comes('Bowl')
    expect(name.shown()).toBe('Bowl')
    await name.type('Moon jar')
    await name.comes('Plate')
    expect(name.shown()).toBe('Moon jar')
  })

  it.each([
    ['mine', 'Moon jar', ['Moon jar']],
    ['theirs', null, []],
    ['both', 'Moon jar and plate', ['Moon jar and plate']],
  ])('asks where somebody else changed the text meanwhile: %s', async (_, answer, saved) => {
    const name = field()
    await name.type('Moon jar')
    await name.comes('Plate')
    await name.input.trigger('blur')
    await settled()
    expect(clash.value).toMatchObject({ what: 'Name', mine: 'Moon jar', theirs: 'Plate' })
    clash.value!.settle(answer)
    await settled()
    expect(name.saved).toEqual(saved)
    expect(clash.value).toBeUndefined()
    if (answer === null) expect(name.shown()).toBe('Plate')
  })

  it('stays, marked, while nobody answers, and is saved when they do', async () => {
    const tried: string[] = []
    const name = field({
      keep: 'name of test 7',
      onSave: (text) => {
        tried.push(text)
        connection.down = tried.length < 2
      },
    })
    await name.type('Moon jar')
    await name.leave()
    expect([name.shown(), name.marked(), tried]).toEqual(['Moon jar', true, ['Moon jar']])
    connection.down = false
    await settled()
    expect(tried).toEqual(['Moon jar', 'Moon jar'])
    await name.comes('Moon jar')
    expect([name.marked(), draftOf('name of test 7')]).toEqual([false, undefined])
  })

  it('is there again after the page was left, until the field is', async () => {
    const before = field({ keep: 'name of test 7' })
    await before.type('Moon jar')
    before.gone()
    const after = field({ keep: 'name of test 7' })
    expect([after.shown(), after.marked()]).toEqual(['Moon jar', true])
    await after.input.trigger('focus')
    await after.leave()
    expect(after.saved).toEqual(['Moon jar'])
    expect(draftOf('name of test 7')).toBeUndefined()
  })

  it('that was left behind asks as well, where the text became another one', async () => {
    const before = field({ keep: 'name of test 7' })
    await before.type('Moon jar')
    before.gone()
    const after = field({ keep: 'name of test 7', value: 'Plate' })
    expect(after.shown()).toBe('Moon jar')
    await after.input.trigger('focus')
    await after.input.trigger('blur')
    await settled()
    expect(clash.value).toMatchObject({ mine: 'Moon jar', theirs: 'Plate' })
    clash.value!.settle(null)
    await settled()
    expect(after.saved).toEqual([])
  })

  it('of one line ends with Enter, of several does not', async () => {
    const name = field()
    await name.type('Moon jar')
    const blur = vi.spyOn(name.input.element as HTMLInputElement, 'blur')
    await name.input.trigger('keydown', { key: 'Enter' })
    expect(blur).toHaveBeenCalledOnce()
    const notes = mount(Draft, { props: { value: '', lines: 3 } }).get('textarea')
    const stay = vi.spyOn(notes.element as HTMLTextAreaElement, 'blur')
    await notes.trigger('keydown', { key: 'Enter' })
    expect(stay).not.toHaveBeenCalled()
  })
})
