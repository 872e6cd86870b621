/** The probe, as far as a page without a layout can show it. */
import { beforeEach, describe, expect, it } from 'vitest'

import { isSecret } from '@probe/fields'
import { labelOf } from '@probe/labels'
import { tidy } from '@probe/texts'

const page = (html: string) => {
  document.body.innerHTML = html
  return document.querySelector('#it')!
}
beforeEach(() => (document.body.innerHTML = ''))

describe('what labels a field', () => {
  it.each([
    ['<label for="it">Clay <b>body</b></label><input id="it">', 'Clay body'],
    ['<label>Cone <select id="it"><option>6</option></select></label>', 'Cone'],
    [
      '<span id="a">Glaze</span><span id="b">no. 2</span><input id="it" aria-labelledby="a b">',
      'Glaze no. 2',
    ],
    ['<dl><dt>Price</dt><dd id="it">€ 7.30</dd></dl>', 'Price'],
    ['<dl><dt>Price</dt><dd><b id="it">€ 7.30</b></dd></dl>', 'Price'],
  ])('%s', (html, label) => {
    expect(labelOf(page(html))).toBe(label)
  })

  it('is not what a list shows, which is what it holds', () => {
    const html =
      '<p id="l">Kiln</p><div id="it" role="combobox" aria-labelledby="l v"><i id="v">North</i></div>'
    expect(labelOf(page(html))).toBe('Kiln')
  })
})

describe('texts', () => {
  it('are as people read them', () => {
    expect(tidy('  two\n\t words ')).toBe('two words')
    expect(tidy(null)).toBe('')
    expect(tidy('x'.repeat(9000))).toHaveLength(400)
  })
})

describe('secrets', () => {
  it.each([
    ['<input id="it" type="password">', true],
    ['<input id="it" type="text">', false],
  ])('%s', (html, secret) => {
    expect(isSecret(page(html) as HTMLInputElement)).toBe(secret)
  })
})
