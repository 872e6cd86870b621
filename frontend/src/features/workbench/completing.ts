/** What can be completed: names that the test and the catalogue have. */
export interface Words {
  actions: string[]
  inputs: Record<string, string[]>
  elements: string[]
  values: string[]
  comparisons: string[]
  properties: string[]
}

const PARTS = [
  'do',
  'element',
  'with',
  'title',
  'comment',
  'seconds',
  'on failure',
  'retries',
  'off',
  'steps',
]
const FIXED: Record<string, string[]> = {
  'on failure': ['stop', 'go on', 'stop everything'],
  pictures: ['each step', 'failures', 'none'],
  'when interrupted': ['leave', 'play again'],
  off: ['yes'],
  loose: ['yes'],
}

/** What was begun and what fits behind a text; null where nothing is known to fit. */
export function completionsAt(before: string, words: Words): { typed: string; options: string[] } | null {
  const line = before.slice(before.lastIndexOf('\n') + 1)
  const value = /\$\{[^}]*$/.exec(line)
  if (value) return { typed: value[0], options: words.values }
  const inside = /^\s*(?:- )?with: \{(.*)$/.exec(line)
  if (inside) return insideWith(inside[1]!, before, words)
  const pair = /^\s*(?:- )?([a-z ]+): ?(.*)$/.exec(line)
  if (pair) {
    const options = { do: words.actions, element: words.elements, onto: words.elements, ...FIXED }[pair[1]!]
    return options ? { typed: pair[2]!, options } : null
  }
  const part = /^\s*(?:- )?([a-z ]*)$/.exec(line)
  return part ? { typed: part[1]!, options: PARTS.map((name) => `${name}: `) } : null
}

function insideWith(typed: string, before: string, words: Words) {
  const comma = typed.lastIndexOf(', ')
  const last = typed.slice(comma < 0 ? 0 : comma + 2)
  const [name, ...rest] = last.split(': ')
  if (rest.length) {
    const options = { comparison: words.comparisons, property: words.properties }[name!]
    return { typed: rest.join(': '), options: options ?? words.values.map((one) => `'${one}'`) }
  }
  const actions = [...before.matchAll(/^\s*- do: (.+)$/gm)]
  const inputs = words.inputs[actions.at(-1)?.[1]?.trim() ?? ''] ?? []
  return { typed: last, options: inputs.map((one) => `${one}: `) }
}
