/** Days of the calendar, and the usual ways to say that something repeats. */
import { describe, expect, it } from 'vitest'

import { daysOf, monday, onDay, readCron, stepped, titleOf, when, writeCron } from '@/features/plans/days'

describe('the days that are shown', () => {
  it('are whole weeks for a month, from Monday on', () => {
    for (let month = 0; month < 24; month++) {
      const days = daysOf('month', new Date(2026, month, 15))
      expect(days.length % 7).toBe(0)
      expect(days[0]!.getDay()).toBe(1)
      const last = new Date(2026, month + 1, 0)
      expect(days.some((one) => one.toDateString() === last.toDateString())).toBe(true)
      expect(days.slice(0, -7).at(-1)! < last).toBe(true) // no week of another month alone
    }
  })
  it('go on by what is shown', () => {
    const day = new Date(2026, 0, 31)
    expect(stepped('month', day, 1)).toEqual(new Date(2026, 1, 1))
    expect(stepped('week', day, -1)).toEqual(new Date(2026, 0, 24))
    expect(daysOf('day', day)).toEqual([new Date(2026, 0, 31)])
    expect(monday(new Date(2026, 10, 29))).toEqual(new Date(2026, 10, 23))
    expect(titleOf('week', new Date(2026, 10, 27))).toBe('23 November to 29 November 2026')
  })
  it('keep the time of day of what is carried to another', () => {
    expect(onDay(new Date(2026, 0, 1, 3, 45), new Date(2026, 1, 2))).toEqual(new Date(2026, 1, 2, 3, 45))
    expect(when('2030-12-02T02:00:00Z', 'Europe/Berlin')).toContain('03:00')
  })
})

describe('a cron expression', () => {
  it('is read as the usual way that it is, and written back', () => {
    for (const [cron, usual] of [
      ['0 3 * * *', 'daily'],
      ['30 4 * * 1-5', 'workdays'],
      ['15 22 * * 0', 'weekly'],
      ['5 1 28 * *', 'monthly'],
      ['20 * * * *', 'hourly'],
    ] as const) {
      const read = readCron(cron)
      expect(read.usual).toBe(usual)
      expect(writeCron(read.usual, read.time, read.day)).toBe(cron)
    }
  })
  it('stays as it is where no usual way says it', () => {
    for (const cron of ['*/5 * * * *', '0 3 1 1 *', '0 3,4 * * *', '0 3 * * 1,2', 'odd'])
      expect(readCron(cron).usual).toBe('cron')
  })
})
