import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayOf, dayText } from '../value/date'
import { dayAt, instantOf } from './instants'
import { daysOf, nextOccasions } from './occasions'
import { type DayRule, minutesOf, type WorkCalendar } from './when'

const zones = ['Europe/Lisbon', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'America/St_Johns', 'UTC']
const zone = fc.constantFrom(...zones)
const [first, last] = [dayOf(2021, 1, 1), dayOf(2030, 12, 31)]

describe('times of a day in a zone', () => {
  /** What the clocks of a zone show, by another way of printing. */
  const shown = (instant: number, at: string) => new Date(instant).toLocaleString('sv-SE', { timeZone: at }).slice(0, 16)
  const wanted = (day: number, minutes: number) =>
    `${dayText(day)} ${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`
  /** The first instant at which they show it, found by looking at each quarter of an hour; undefined where they skip it. */
  function looked(day: number, minutes: number, at: string): number | undefined {
    for (let instant = day * 86_400_000 - 16 * 3_600_000; instant < day * 86_400_000 + 40 * 3_600_000; instant += 900_000)
      if (shown(instant, at) === wanted(day, minutes)) return instant
    return undefined
  }
  const quarter = fc.integer({ min: 0, max: 95 }).map(count => count * 15)

  it('are those that clocks show, the first of two', () => {
    fc.assert(
      fc.property(fc.integer({ min: first, max: last }), quarter, zone, (day, minutes, at) => {
        const found = looked(day, minutes, at)
        if (found !== undefined) expect(instantOf(day, minutes, at)).toBe(found)
        expect(dayAt(instantOf(day, minutes, at), at)).toBe(day)
      }),
      { numRuns: 60 },
    )
  })

  it('are found when clocks change: skipped ones as much later, doubled ones once', () => {
    const changes = [
      ['Europe/Lisbon', '2027-03-28', 60, '2027-03-28 02:00'],
      ['Europe/Lisbon', '2027-03-28', 90, '2027-03-28 02:30'],
      ['America/New_York', '2027-03-14', 150, '2027-03-14 03:30'],
      ['Australia/Lord_Howe', '2027-10-03', 135, '2027-10-03 02:45'],
    ] as const
    for (const [at, text, minutes, then] of changes) {
      const day = Date.parse(text) / 86_400_000
      expect(looked(day, minutes, at), at).toBeUndefined()
      expect(shown(instantOf(day, minutes, at), at)).toBe(then)
    }
    // 01:30 of the day on which Lisbon goes back is there twice; the first is in summer time, an hour ahead of UTC
    const back = Date.parse('2027-10-31') / 86_400_000
    expect(new Date(instantOf(back, 90, 'Europe/Lisbon')).toISOString()).toBe('2027-10-31T00:30:00.000Z')
    expect(new Date(instantOf(back, 150, 'Europe/Lisbon')).toISOString()).toBe('2027-10-31T02:30:00.000Z')
  })

  it('are written as hours and minutes', () => {
    expect(['00:00', '07:05', '23:59', '24:00', '7:00', '07:60', '', '07:00 '].map(minutesOf)).toEqual([
      0,
      425,
      1439,
      ...Array(5).fill(undefined),
    ])
  })
})

/** Days by JavaScript's own calendar: what a person with a wall calendar would tick. */
const own = (day: number) => new Date(day * 86_400_000)
const isOff = (day: number, { workdays, holidays }: WorkCalendar) => !workdays.includes(own(day).getUTCDay()) || holidays.has(day)
function ticked(rule: DayRule, calendar: WorkCalendar): number[] {
  const days = Array.from({ length: last - first + 500 }, (_, at) => first - 250 + at)
  const working = days.filter(day => !isOff(day, calendar))
  const monthOf = (day: number) => own(day).toISOString().slice(0, 7)
  /** Monday of the week. */
  const weekOf = (day: number) => String(day - ((own(day).getUTCDay() + 6) % 7))
  const grouped = (list: number[], by: (day: number) => string) => {
    const groups = new Map<string, number[]>()
    for (const day of list) groups.set(by(day), [...(groups.get(by(day)) ?? []), day])
    return [...groups.values()]
  }
  const move = (day: number): number[] => {
    if (!('offDay' in rule) || rule.offDay === 'stay' || !isOff(day, calendar)) return [day]
    if (rule.offDay === 'leave') return []
    return rule.offDay === 'after' ? [working.find(each => each > day)!] : [working.findLast(each => each < day)!]
  }
  const plain =
    rule.on === 'days'
      ? days
      : rule.on === 'weekdays'
        ? days.filter(day => rule.weekdays.includes(own(day).getUTCDay()))
        : rule.on === 'monthDay'
          ? grouped(days, monthOf).map(month =>
              month.at(rule.day > 0 ? Math.min(rule.day, month.length) - 1 : Math.max(rule.day, -month.length))!,
            )
          : rule.on === 'workingDay'
            ? grouped(working, rule.of === 'month' ? monthOf : weekOf).flatMap(
                group => group.at(rule.nth > 0 ? rule.nth - 1 : rule.nth) ?? [],
              )
            : calendar.periodEnds.flatMap(end => working.filter(day => day > end)[rule.nth - 1] ?? [])
  return [...new Set(plain.flatMap(move))].filter(day => day >= first && day <= last).sort((a, b) => a - b)
}

describe('days of a rule', () => {
  const calendar = fc.record({
    zone,
    workdays: fc.uniqueArray(fc.integer({ min: 0, max: 6 }), { minLength: 2, maxLength: 7 }),
    holidays: fc.uniqueArray(fc.integer({ min: first - 100, max: last + 100 }), { maxLength: 300 }).map(list => new Set(list)),
    periodEnds: fc.uniqueArray(fc.integer({ min: first - 20, max: last - 70 }), { maxLength: 130 }).map(list => list.sort((a, b) => a - b)),
  })
  const offDay = fc.constantFrom('stay' as const, 'before' as const, 'after' as const, 'leave' as const)
  const nth = (most: number) => fc.integer({ min: -most, max: most }).filter(Boolean)
  const rule: fc.Arbitrary<DayRule> = fc.oneof(
    offDay.map(off => ({ on: 'days' as const, offDay: off })),
    fc.record({ on: fc.constant('weekdays' as const), weekdays: fc.uniqueArray(fc.integer({ min: 0, max: 6 })), offDay }),
    fc.record({ on: fc.constant('monthDay' as const), day: nth(31), offDay }),
    fc.record({ on: fc.constant('workingDay' as const), of: fc.constant('week' as const), nth: nth(5) }),
    fc.record({ on: fc.constant('workingDay' as const), of: fc.constant('month' as const), nth: nth(15) }),
    fc.record({ on: fc.constant('afterPeriod' as const), nth: fc.integer({ min: 1, max: 12 }) }),
  )

  it('over ten years are those that a person ticks in a calendar', () => {
    fc.assert(
      fc.property(rule, calendar, (days, around) => {
        expect(daysOf(days, first, last, around)).toEqual(ticked(days, around))
      }),
      { numRuns: 40 },
    )
  })

  it('are the same in whatever stretches they are asked for, and what is next goes on without a gap', () => {
    fc.assert(
      fc.property(
        rule,
        calendar,
        fc.integer({ min: first + 30, max: first + 900 }),
        fc.integer({ min: 1, max: 60 }),
        (days, around, from, length) => {
          const stretches = [from, from + length, from + 2 * length].flatMap(start => daysOf(days, start, start + length - 1, around))
          expect(stretches).toEqual(daysOf(days, from, from + 3 * length - 1, around))
          const when = { is: 'times' as const, days, at: '07:00' }
          const next = nextOccasions(when, instantOf(from, 0, around.zone), 12, around)
          const wanted = ticked(days, around).filter(day => day >= from && day <= from + 700)
          expect(next.map(each => each.day).slice(0, wanted.length)).toEqual(wanted.slice(0, 12))
          // after each one comes the one behind it
          for (const [at, occasion] of next.slice(0, -1).entries())
            expect(nextOccasions(when, occasion.at, 1, around)).toEqual([next[at + 1]])
        },
      ),
      { numRuns: 25 },
    )
  })

  it('“third working day after each period, 07:00” in Lisbon, across a change of clocks and a holiday', () => {
    const around: WorkCalendar = {
      zone: 'Europe/Lisbon',
      workdays: [1, 2, 3, 4, 5],
      holidays: new Set([dayOf(2026, 11, 2), dayOf(2026, 12, 1)]),
      periodEnds: [dayOf(2026, 9, 30), dayOf(2026, 10, 31), dayOf(2026, 11, 30)],
    }
    const when = { is: 'times' as const, days: { on: 'afterPeriod' as const, nth: 3 }, at: '07:00' }
    expect(
      nextOccasions(when, Date.parse('2026-10-01T00:00Z'), 5, around).map(each => [each.key, new Date(each.at).toISOString()]),
    ).toEqual([
      ['2026-10-05T07:00', '2026-10-05T06:00:00.000Z'],
      ['2026-11-05T07:00', '2026-11-05T07:00:00.000Z'],
      ['2026-12-04T07:00', '2026-12-04T07:00:00.000Z'],
    ])
    for (const other of [{ is: 'closed' as const }, { is: 'refreshed' as const, source: 's' }, { ...when, at: 'soon' }])
      expect(nextOccasions(other, 0, 5, around)).toEqual([])
    // nobody works at all
    expect(nextOccasions({ ...when, days: { on: 'workingDay', of: 'month', nth: 1 } }, 0, 5, { ...around, workdays: [] })).toEqual([])
  })
})
