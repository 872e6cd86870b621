/** Texts: what differs in them, blocks of cells, what completes them. */
import { describe, expect, it } from 'vitest'

import { blockOf, cellsOf } from '@/features/tables/pasting'
import { completionsAt } from '@/features/workbench/completing'
import type { Words } from '@/features/workbench/completing'
import { apart } from '@/shared/apart'

describe('what differs in a text from another', () => {
  it.each([
    ['Type Moon jar into Piece', 'Type Vase into Piece', ['Type ', 'Moon jar ', 'into Piece']],
    ['the same', 'the same', ['the same', '', '']],
    ['', 'all of it', ['', '', '']],
    ['one  two', 'one two', ['one  two', '', '']], // blanks alone are no difference
    ['a b a', 'a', ['a ', 'b a', '']],
  ])('%j beside %j', (text, other, [start, middle, end]) => {
    expect(apart(text, other)).toEqual({ start, middle, end })
  })

  it('loses nothing of the text', () => {
    for (const [one, two] of [
      ['x y', 'y x'],
      ['  a', 'a  '],
      ['é ü', 'é'],
    ] as const) {
      const { start, middle, end } = apart(one, two)
      expect(start + middle + end).toBe(one)
    }
  })
})

describe('a block of cells on the clipboard', () => {
  it.each([
    ['one', [['one']]],
    [
      'a\tb\r\nc\td\r\n',
      [
        ['a', 'b'],
        ['c', 'd'],
      ],
    ],
    ['"a\tb"\t"say ""no"""', [['a\tb', 'say "no"']]],
    ['"two\nlines"\tx', [['two\nlines', 'x']]],
    ['12" plate\tx', [['12" plate', 'x']]], // a quote inside is a letter like any other
    ['', [['']]],
  ])('%j', (text, cells) => {
    expect(cellsOf(text)).toEqual(cells)
  })

  it('is taken in as it was given out', () => {
    const cells = [
      ['a "b"', 'tab\there', ''],
      ['two\nlines', ' blank ', '=1+1'],
    ]
    expect(cellsOf(blockOf(cells))).toEqual(cells)
  })
})

describe('what completes a text', () => {
  const words: Words = {
    actions: ['fill', 'press'],
    inputs: { fill: ['value'] },
    elements: ['Piece'],
    values: ['${row.clay}'],
    comparisons: ['is'],
    properties: ['text'],
  }
  it.each([
    ['- do: fi', 'fi', ['fill', 'press']],
    ['  element: P', 'P', ['Piece']],
    ['- do: fill\n  with: {va', 'va', ['value: ']],
    ["- do: fill\n  with: {value: '${ro", '${ro', ['${row.clay}']],
    ['  on failure: ', '', ['stop', 'go on', 'stop everything']],
  ])('%j', (before, typed, options) => {
    expect(completionsAt(before, words)).toEqual({ typed, options })
  })

  it('is nothing where nothing is known', () => {
    expect(completionsAt('  title: anything', words)).toBeNull()
  })
})
