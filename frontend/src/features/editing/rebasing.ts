import type { Test } from '@/api/client'
import { merged, mineStands } from '@/shared/conflicts'

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
