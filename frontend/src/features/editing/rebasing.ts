import type { Test } from '@/api/client'
import { merged, mineStands } from '@/shared/conflicts'
import { asked } from '@/shared/questions'

import type { Edit } from './useEdits'

type Change = Extract<Edit, { do: 'change' }>

/**
 * The change of a sentence as it is to be made on the newest version, where that was changed by
 * somebody else since: what they left alone is changed as meant, of a text that they changed as
 * well the person says what is to stand. Null when nothing of it is left, undefined when it can
 * not be made on the newest version at all. `own` are values that this page gave sentences itself.
 */
export async function rebased(
  edit: Change,
  before: Test,
  now: Test,
  own: ReadonlyMap<string, string> = new Map(),
): Promise<Edit | null | undefined> {
  const was = before.steps.find((step) => step.id === edit.step)
  const is = now.steps.find((step) => step.id === edit.step)
  if (!was || !is || was.action !== is.action) return undefined
  const { inputs, title, comment, ...rest } = edit.fields
  const fields: Change['fields'] = {}
  for (const name of Object.keys(rest) as (keyof typeof rest & keyof typeof was)[]) {
    const called = (value: unknown) =>
      [...before.elements, ...now.elements].find((one) => one.id === value)?.name ?? value
    const stands = await mineStands(
      name.replace('_', ' '),
      called(rest[name]),
      called(was[name]),
      called(is[name]),
    )
    if (stands) Object.assign(fields, { [name]: rest[name] })
  }
  for (const [name, mine] of Object.entries({ title, comment })) {
    if (typeof mine !== 'string') continue
    const text = await merged(name, mine, was[name as 'title'], is[name as 'title'])
    if (text !== null) fields[name as 'title'] = text
  }
  for (const [name, mine] of Object.entries(inputs ?? {})) {
    const then = own.get(`${edit.step} ${name}`) ?? was.inputs[name] ?? ''
    const there = is.inputs[name] ?? ''
    const text =
      mine === null
        ? mine
        : await merged(name, mine, there === then ? there : (was.inputs[name] ?? ''), there)
    if (mine === null || text !== null) fields.inputs = { ...fields.inputs, [name]: text }
  }
  return Object.keys(fields).length ? { ...edit, fields } : null
}

type SetSettings = Extract<Edit, { do: 'set settings' }>

/** The change of settings as it is to be made where somebody else changed the same ones since. */
export async function settingsAgain(edit: SetSettings, before: Test, now: Test): Promise<Edit | null> {
  const fields: SetSettings['fields'] = {}
  for (const name of Object.keys(edit.fields) as (keyof typeof edit.fields & keyof Test['settings'])[]) {
    const stands = await mineStands(
      name.replace('_', ' '),
      edit.fields[name],
      before.settings[name],
      now.settings[name],
    )
    if (stands) Object.assign(fields, { [name]: edit.fields[name] })
  }
  return Object.keys(fields).length ? { ...edit, fields } : null
}

const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other)
const MOST = 4
/** Where sentences stand: these go well with whatever they say by now. */
const PLACING = new Set<string>(['move', 'copy', 'wrap', 'shift', 'insert'])

/** What is worked out of a sentence, or of the moment: that it differs is nobody's change. */
const WORKED_OUT = new Set([
  'holds',
  'parts',
  'sentence',
  'problems',
  'warning',
  'picture',
  'box',
  'page',
  'idle',
  'ticked',
])
const CALLED: Record<string, string> = { element: 'what it acts on', onto: 'what it acts on' }
const shortly = (value: unknown) =>
  String(value).length > 60 ? `${String(value).slice(0, 59)}…` : String(value)

/** In words, what of a thing somebody changed, and into what. */
function changesOf(was: object | undefined, is: object | undefined): string[] {
  const before = new Map<string, unknown>(Object.entries(was ?? {}))
  return Object.entries(is ?? {}).flatMap(([name, now]) => {
    if (WORKED_OUT.has(name) || same(before.get(name), now)) return []
    if (['inputs', 'values'].includes(name)) return changesOf(before.get(name) as object, now as object)
    if (typeof now === 'boolean') return [`${name} is ${now ? 'on' : 'off'}`]
    return CALLED[name] ?? `${name.replaceAll('_', ' ')} is “${shortly(now ?? '')}”`
  })
}

type Remove = Extract<Edit, { do: 'remove' | 'remove rows' }>

/** What of a deletion is left to be done: of what somebody changed since, the person is asked. */
async function removedAgain(edit: Remove, before: Test, now: Test): Promise<Edit | null | undefined> {
  const rows = edit.do === 'remove rows'
  const [was, is] = rows ? [before.rows, now.rows] : [before.steps, now.steps]
  if (!was || !is) return undefined // so many rows that this page has not read them all
  const there = (rows ? edit.rows : edit.steps).filter((id) => is.some((one) => one.id === id))
  if (!there.length) return null // somebody else deleted them as well
  const find = (among: readonly { id: string }[], id: string) => among.find((one) => one.id === id)
  const changedIn = (id: string) => changesOf(find(was, id), find(is, id))
  const said = (id: string) => {
    const place = is.findIndex((one) => one.id === id) + 1
    return `${rows ? 'row' : 'sentence'} ${place} (${changedIn(id).join(', ')})`
  }
  const changed = there.filter((id) => changedIn(id).length > 0)
  const left = { ...edit, [rows ? 'rows' : 'steps']: there } as Edit
  if (!changed.length) return left
  const named = changed.slice(0, MOST).map(said).join(', ')
  const more = changed.length > MOST ? ` and ${changed.length - MOST} more` : ''
  const sure = await asked({
    title: 'Somebody else changed this meanwhile',
    text: `What you delete was changed: ${named}${more}.`,
    yes: 'Delete it all the same',
    no: 'Keep it',
  })
  return sure ? left : null
}

/**
 * A change other than of what a sentence says, as it is to be made on the newest version: undefined
 * when it can not be made there at all, null when nothing of it is left.
 */
export function placedAgain(edit: Edit, before: Test, now: Test): Promise<Edit | null | undefined> {
  if (edit.do === 'remove' || edit.do === 'remove rows') return removedAgain(edit, before, now)
  if (!PLACING.has(edit.do)) return Promise.resolve(undefined)
  const { steps = [], after } = edit as { steps?: (string | { id?: string })[]; after?: string | null }
  const needed = [...steps.filter((one) => typeof one === 'string'), ...(after ? [after] : [])]
  const all = needed.every((id) => now.steps.some((step) => step.id === id))
  return Promise.resolve(all ? edit : undefined)
}
