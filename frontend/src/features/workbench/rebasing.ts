import type { Test } from '@/api/client'
import { merged } from '@/shared/conflicts'

import type { Edit } from './useEdits'

type Change = Extract<Edit, { do: 'change' }>

/**
 * The change of a sentence as it is to be made on the newest version, where that was changed by
 * somebody else since: what they left alone is changed as meant, of a text that they changed as
 * well the person says what is to stand. Null when nothing of it is left, undefined when it can
 * not be made on the newest version at all.
 */
export async function rebased(edit: Change, before: Test, now: Test): Promise<Edit | null | undefined> {
  const was = before.steps.find((step) => step.id === edit.step)
  const is = now.steps.find((step) => step.id === edit.step)
  if (!was || !is || was.action !== is.action) return undefined
  const { inputs, title, comment, ...rest } = edit.fields
  const others = Object.keys(rest) as (keyof typeof rest & keyof typeof was)[]
  if (others.some((name) => JSON.stringify(was[name]) !== JSON.stringify(is[name]))) return undefined
  const fields: Change['fields'] = rest
  for (const [name, mine] of Object.entries({ title, comment })) {
    if (typeof mine !== 'string') continue
    const text = await merged(name, mine, was[name as 'title'], is[name as 'title'])
    if (text !== null) fields[name as 'title'] = text
  }
  for (const [name, mine] of Object.entries(inputs ?? {})) {
    const text =
      mine === null ? mine : await merged(name, mine, was.inputs[name] ?? '', is.inputs[name] ?? '')
    if (mine === null || text !== null) fields.inputs = { ...fields.inputs, [name]: text }
  }
  return Object.keys(fields).length ? { ...edit, fields } : null
}
