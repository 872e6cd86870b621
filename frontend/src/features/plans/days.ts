/** Days of the calendar, in the time zone of the desk. */
export type View = 'month' | 'week' | 'day'

const at = (date: Date, day: number) => new Date(date.getFullYear(), date.getMonth(), day)

/** The Monday of a day's week. */
export const monday = (date: Date) => at(date, date.getDate() - ((date.getDay() + 6) % 7))

/** The days that a view shows: whole weeks for a month. */
export function daysOf(view: View, date: Date): Date[] {
  const first = view === 'day' ? at(date, date.getDate()) : monday(view === 'month' ? at(date, 1) : date)
  const last = new Date(date.getFullYear(), date.getMonth() + 1, 0)
  const count =
    view === 'day' ? 1 : view === 'week' ? 7 : Math.round((+monday(last) - +first) / 604_800_000) * 7 + 7
  return Array.from({ length: count }, (_, n) => at(first, first.getDate() + n))
}

/** The day that a view goes to by a step back (-1) or on (1). */
export function stepped(view: View, date: Date, by: number): Date {
  if (view === 'month') return new Date(date.getFullYear(), date.getMonth() + by, 1)
  return at(date, date.getDate() + by * (view === 'week' ? 7 : 1))
}

export const sameDay = (one: Date, other: Date) => one.toDateString() === other.toDateString()

/** A time moved to another day, at the same time of day. */
export function onDay(time: Date, day: Date): Date {
  const moved = new Date(day)
  moved.setHours(time.getHours(), time.getMinutes(), 0, 0)
  return moved
}

/** What a view is called: `December 2026`, `30 November to 6 December 2026`. */
export function titleOf(view: View, date: Date): string {
  if (view === 'month') return date.toLocaleDateString('en-GB', { month: 'long', year: 'numeric' })
  const long = { day: 'numeric', month: 'long', year: 'numeric' } as const
  if (view === 'day') return date.toLocaleDateString('en-GB', { weekday: 'long', ...long })
  const days = daysOf('week', date)
  return `${days[0]!.toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })} to ${days[6]!.toLocaleDateString('en-GB', long)}`
}

/** A time in a time zone, with its day of the week: `Mon 30 Nov, 03:00`. */
export function when(iso: string, zone: string): string {
  const day = { weekday: 'short', day: 'numeric', month: 'short' } as const
  const shown = new Date(iso)
  const year = shown.getFullYear() === new Date().getFullYear() ? {} : ({ year: 'numeric' } as const)
  return shown.toLocaleString('en-GB', {
    ...day,
    ...year,
    hour: '2-digit',
    minute: '2-digit',
    timeZone: zone,
  })
}

/** How people usually say when something repeats, with the cron expression of each. */
export const USUAL = [
  { name: 'daily', words: 'every day', days: '* * *' },
  { name: 'workdays', words: 'on workdays', days: '* * 1-5' },
  { name: 'weekly', words: 'once a week', days: '* * 1' },
  { name: 'monthly', words: 'once a month', days: '1 * *' },
] as const
export type Usual = (typeof USUAL)[number]['name'] | 'once' | 'hourly' | 'cron'

/** Which of the usual ways a cron expression is, and at what time of day. */
export function readCron(cron: string): { usual: Usual; time: string; day: string } {
  const [minute = '0', hour = '3', ...days] = cron.trim().split(/\s+/)
  const plain = /^\d+$/
  const time = `${hour.padStart(2, '0')}:${minute.padStart(2, '0')}`
  const [dom = '*', month = '*', dow = '*'] = days
  if (month === '*' && plain.test(minute)) {
    if (hour === '*' && dom === '*' && dow === '*')
      return { usual: 'hourly', time: `00:${minute.padStart(2, '0')}`, day: '' }
    if (plain.test(hour)) {
      if (dom === '*' && dow === '*') return { usual: 'daily', time, day: '' }
      if (dom === '*' && dow === '1-5') return { usual: 'workdays', time, day: '' }
      if (dom === '*' && plain.test(dow)) return { usual: 'weekly', time, day: dow }
      if (plain.test(dom) && dow === '*') return { usual: 'monthly', time, day: dom }
    }
  }
  return { usual: 'cron', time: '03:00', day: '' }
}

/** The cron expression of a usual way. */
export function writeCron(usual: Usual, time: string, day: string): string {
  const [hour = 3, minute = 0] = time.split(':').map(Number)
  if (usual === 'hourly') return `${minute} * * * *`
  if (usual === 'weekly') return `${minute} ${hour} * * ${day || 1}`
  if (usual === 'monthly') return `${minute} ${hour} ${day || 1} * *`
  return `${minute} ${hour} ${USUAL.find((one) => one.name === usual)?.days ?? '* * *'}`
}
