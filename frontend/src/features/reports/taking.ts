import type { Shapes } from '@/api/client'

type Report = Required<Shapes['ReportIn']>
const PLACES = { run: 'runs', 'plan run': 'plan-runs', trends: 'trends' } as const

/** Where a report is, and what its file is called. */
export function placeOf({ what, key, template, form, days, zone }: Report) {
  const asked = new URLSearchParams({ template, zone, days: String(days) })
  const of = what === 'trends' ? PLACES.trends : `${PLACES[what]}/${key}`
  const name = what === 'trends' ? `trends-${days}-days` : `${what.replace(' ', '-')}-${key}`
  return { path: `/api/${of}/report.${form}?${asked}`, name: `${name}.${form}` }
}

/**
 * Save a report as a file. A PDF takes a while and may come to nothing: what came instead is thrown
 * as the problem that it is, not saved.
 */
export async function taken(report: Report): Promise<void> {
  const { path, name } = placeOf(report)
  const answer = await fetch(path)
  if (!answer.ok) throw (await answer.json()) as unknown
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await answer.blob())
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
}
