import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type CompanyDays, isZone, workCalendar } from '../../core/pack/companyDays'
import { newPack, type PackDefinition } from '../../core/pack/definition'
import { nextOccasions } from '../../core/pack/occasions'
import { type DayRule, minutesOf } from '../../core/pack/when'
import { demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { grace, type Happening, Schedule, type ScheduleWorld } from './schedule'

/* Schedules on a real store, with a clock and a world of the test's own: what is begun is held against all that was due. */

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())
const hour = 3_600_000
const days: CompanyDays = { zone: 'Europe/Lisbon', workdays: [1, 2, 3, 4, 5], holidays: [{ day: '2026-12-25', name: 'Christmas' }] }

let made = 0
/** A pack that is due, in the store, and what its schedules begin; begun runs are written down as the runner does, without their work. */
async function due(change: Partial<PackDefinition>, since?: number) {
  const rows = estante.store.packs
  const name = `Due ${++made}`
  const id = await rows.add(tester, name, { ...newPack(), ...change })
  const begun: string[] = []
  let clock = since ?? 0
  let happened: Happening[] = []
  const world: ScheduleWorld = {
    days: () => Promise.resolve(days),
    calendar: () => Promise.resolve(undefined),
    happened: () => Promise.resolve(happened),
    now: () => clock,
    begin: async (pack, occasion) => {
      const own = await estante.store.packRuns.begin(tester, {
        ...{ id: `${pack.id} ${occasion}`, packId: pack.id, name, definition: pack.definition, occasion, folder: 'none' },
        ...{ person: 'test', answers: {}, asked: [], state: 'cancelled', createdAt: new Date(), files: [] },
      })
      if (own) begun.push(occasion)
    },
  }
  const only = {
    list: async () =>
      (await rows.list(tester)).filter(each => each.id === id).map(each => (since ? { ...each, since: new Date(since) } : each)),
    unknown: rows.unknown.bind(rows),
    leaveOut: rows.leaveOut.bind(rows),
    wait: rows.wait.bind(rows),
  } as never
  const look = async (at: number, happenedSoFar: Happening[] = []) => {
    clock = at
    happened = happenedSoFar
    // two programs look at once
    const both = [new Schedule(only, world), new Schedule(only, world)]
    await Promise.all(both.map(each => each.look()))
    await Promise.all(both.map(each => each.close()))
    return begun
  }
  /** It was saved: what has happened by then is known at once. */
  const kept = async (happenedSoFar: Happening[]) => {
    happened = happenedSoFar
    const own = new Schedule(only, world)
    await own.kept(await rows.find(tester, id))
    happened = []
    await own.close()
  }
  /** One program that looks all the time, with what it remembers of the look before. */
  const lasting = new Schedule(only, world)
  const lookAgain = async (at: number) => {
    clock = at
    await lasting.look()
    await lasting.close()
    return begun
  }
  const left = async () => (await rows.occasions(id, 1000)).filter(each => each.state === 'left').map(each => each.occasion)
  return { id, look, kept, lookAgain, begun, left }
}
const times = (rule: DayRule, at = '07:00') => ({ when: { is: 'times' as const, days: rule, at } })
const daily: DayRule = { on: 'days', offDay: 'stay' }

describe('occasions', () => {
  it('are begun once, whoever looks how often, and when clocks go back', async () => {
    const start = Date.parse('2026-11-30T00:00Z')
    const pack = await due(times(daily), start)
    expect(await pack.look(start + 6 * hour)).toEqual([])
    expect(await pack.look(start + 7 * hour)).toEqual(['2026-11-30T07:00'])
    for (const at of [7.1, 6.5, 7, 8, 23, 2, 7.01]) await pack.look(start + at * hour)
    expect(pack.begun).toEqual(['2026-11-30T07:00'])
    expect(await pack.look(start + 31 * hour)).toEqual(['2026-11-30T07:00', '2026-12-01T07:00'])
  })

  it('that were missed are made up once, or left out and told', async () => {
    const start = Date.parse('2026-11-30T08:00Z')
    const once = await due({ ...times(daily), missed: 'once' }, start)
    // off from Tuesday's to Friday's
    expect(await once.look(Date.parse('2026-12-04T12:00Z'))).toEqual(['2026-12-04T07:00'])
    const leave = await due({ ...times(daily), missed: 'leave' }, start)
    expect(await leave.look(Date.parse('2026-12-04T12:00Z'))).toEqual([])
    expect(await leave.left()).toEqual(['2026-12-04T07:00'])
    expect(await leave.look(Date.parse('2026-12-05T07:14Z'))).toEqual(['2026-12-05T07:00'])
  })

  it('of a pack that nobody has had yet are not made up, nor those of its time of before', async () => {
    const pack = await due(times({ on: 'monthDay', day: 1, offDay: 'stay' }), Date.parse('2026-12-02T00:00Z'))
    expect(await pack.look(Date.parse('2026-12-20T00:00Z'))).toEqual([])
    expect(await pack.look(Date.parse('2027-01-01T09:00Z'))).toEqual(['2027-01-01T07:00'])
  })

  it('are, for all rules and all times at which somebody looks, the last one that was due, each once', async () => {
    const offDay = fc.constantFrom('stay' as const, 'before' as const, 'after' as const, 'leave' as const)
    const rule: fc.Arbitrary<DayRule> = fc.oneof(
      offDay.map(off => ({ on: 'days' as const, offDay: off })),
      fc.record({
        on: fc.constant('weekdays' as const),
        weekdays: fc.uniqueArray(fc.integer({ min: 0, max: 6 }), { minLength: 1 }),
        offDay,
      }),
      fc.record({ on: fc.constant('monthDay' as const), day: fc.integer({ min: 1, max: 31 }), offDay }),
      fc.record({
        on: fc.constant('workingDay' as const),
        of: fc.constantFrom('week' as const, 'month' as const),
        nth: fc.constantFrom(1, 3, -1),
      }),
    )
    await fc.assert(
      fc.asyncProperty(
        rule,
        fc.constantFrom('00:00', '01:30', '07:00', '23:59'),
        fc.constantFrom('once' as const, 'leave' as const),
        fc.integer({ min: Date.parse('2026-01-01'), max: Date.parse('2026-12-31') }),
        fc.array(fc.oneof(fc.integer({ min: 60_000, max: 3 * hour }), fc.integer({ min: 60_000, max: 20 * 24 * hour })), {
          minLength: 1,
          maxLength: 12,
        }),
        fc.boolean(),
        async (days_, at, missed, start, steps, lasts) => {
          const { when } = times(days_, at)
          expect(minutesOf(at)).toBeDefined()
          const pack = await due({ when, missed }, start)
          const all = nextOccasions(when, start, 400, workCalendar(days))
          const wanted: string[] = []
          const seen = new Set<string>()
          let now = start
          for (const step of steps) {
            now += step
            await (lasts ? pack.lookAgain(now) : pack.look(now))
            const last = all.findLast(each => each.at <= now)
            if (!last || seen.has(last.key)) continue
            seen.add(last.key)
            if (missed === 'once' || now - last.at <= grace) wanted.push(last.key)
          }
          expect(pack.begun).toEqual(wanted)
          await estante.store.packs.remove(tester, pack.id)
        },
      ),
      { numRuns: 25 },
    )
  }, 120_000)
})

describe('what happens', () => {
  const closed = (...codes: string[]): Happening[] => codes.map(code => ({ key: `closed ${code}` }))
  it('counts from when the pack waits for it; of several that were missed the last is worked off', async () => {
    const pack = await due({ when: { is: 'closed' } })
    expect(await pack.look(1, closed('2026-P05', '2026-P06'))).toEqual([])
    expect(await pack.look(2, closed('2026-P05', '2026-P06', '2026-P07'))).toEqual(['closed 2026-P07'])
    expect(await pack.look(3, closed('2026-P05', '2026-P06', '2026-P07'))).toHaveLength(1)
    expect(await pack.look(4, closed('2026-P07', '2026-P08', '2026-P09'))).toEqual(['closed 2026-P07', 'closed 2026-P09'])
    expect(await pack.left()).toEqual(['closed 2026-P08'])
    // nothing that could be asked is nothing that has happened
    expect(await pack.look(5, [])).toHaveLength(2)
  })

  it('counts from the very moment at which the pack is saved', async () => {
    const pack = await due({ when: { is: 'closed' } })
    await pack.kept(closed('2026-P05'))
    expect(await pack.look(1, closed('2026-P05', '2026-P06'))).toEqual(['closed 2026-P06'])
  })

  it('begins anew when the pack waits for something else', async () => {
    const pack = await due({ when: { is: 'refreshed', source: 's' } })
    await pack.look(1, [{ key: 'refreshed 1', at: 1 }])
    const row = await estante.store.packs.find(tester, pack.id)
    expect(row.since).not.toBeNull()
    await estante.store.packs.save(tester, pack.id, row.name, { ...row.definition, when: { is: 'closed' } }, row.version)
    expect((await estante.store.packs.find(tester, pack.id)).since).toBeNull()
    expect(await pack.look(2, closed('2026-P01'))).toEqual([])
  })
})

it('zones are those that clocks can be read in', () => {
  expect(['Europe/Lisbon', 'UTC', 'Pacific/Kiritimati'].map(isZone)).toEqual([true, true, true])
  expect(['Europe/Nowhere', '', 'seven'].map(isZone)).toEqual([false, false, false])
})
