import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import { demoDatabase } from '../../support'
import { tableLevel } from '../../../core/model/levels'
import { columnOf } from '../../../core/value/columns'
import type { Value } from '../../../core/value/value'
import { checkFormula } from '../../../core/formula/check'
import { compileFormula } from '../../../core/formula/evaluate'
import { formulaSql } from '../../../core/formula/sql'
import { dayText, parseDay } from '../../../core/value/date'
import { addPeriods, findPeriod, type FiscalCalendar, periodLabel, periodOf, yearStart } from '../../../core/books/calendar'

let db: PGlite
let calendar: FiscalCalendar
beforeAll(async () => {
  const demo = await demoDatabase()
  db = demo.db
  calendar = demo.catalog.calendar!
})
const code = (year: number, number: number) => `${year}-P${String(number).padStart(2, '0')}`

describe('the fiscal calendar of the source', () => {
  it('holds what its tables hold: years from April, a thirteenth period for adjustments', async () => {
    const rows = (
      await db.query<{ code: string; start: string; end: string; adjustment: boolean; year: string }>(
        "select p.fiscal_year_id || '-P' || lpad(p.number::text, 2, '0') as code, p.starts_on::text as start, p.ends_on::text as " +
          '"end", p.is_adjustment as adjustment, y.name as year from fiscal_periods p join fiscal_years y on y.id = ' +
          'p.fiscal_year_id order ' +
          'by p.fiscal_year_id, p.number',
      )
    ).rows
    expect(
      calendar.periods.map(period => ({
        code: period.code,
        start: dayText(period.start),
        end: dayText(period.end),
        adjustment: period.adjustment,
        year: period.year,
      })),
    ).toEqual(rows)
    expect(periodLabel(findPeriod(calendar, code(2026, 7))!)).toBe('October 2026 (7 of 2026/27)')
    expect(periodLabel(findPeriod(calendar, code(2025, 13))!)).toBe('2025/26 adjustments')
  })

  it('counts periods across years, and an adjustment period with its year’s last ordinary one (rule 28)', () => {
    expect(addPeriods(calendar, code(2026, 1), -1)?.code).toBe(code(2025, 12))
    expect(addPeriods(calendar, code(2025, 13), 1)?.code).toBe(code(2026, 1))
    expect(addPeriods(calendar, code(2024, 12), 12)?.code).toBe(code(2025, 12))
    expect(addPeriods(calendar, code(2024, 1), -1)).toBeUndefined()
    expect(dayText(yearStart(calendar, code(2025, 13))!)).toBe('2025-04-01')
    expect(periodOf(calendar, parseDay('2026-03-31')!)?.code).toBe(code(2025, 12))
    expect(periodOf(undefined, 0)).toBeUndefined()
  })

  it('its functions give the same in the core and in SQL, for dates within it and without', async () => {
    const level = tableLevel(
      {
        schema: '',
        name: 'days',
        primaryKey: [],
        rowEstimate: 0,
        columns: [
          { name: 'd', type: 'date', databaseType: 'date', required: false },
          { name: 'n', type: 'number', databaseType: 'integer', scale: 0, required: false },
        ],
      },
      'day',
    )
    const scope = { levels: [level], level: 0, parameters: { p: 'text' as const } }
    const formula = fc.constantFrom(
      'period(d)',
      'periodStart(period(d))',
      'periodEnd(period(d))',
      'yearStart(period(d))',
      'addPeriods(period(d), n)',
      'addPeriods(param.p, n)',
      'periodEnd(addPeriods(param.p, -3))',
      'd >= yearStart(param.p)',
      'period(today())',
    )
    const row = fc.record({
      d: fc.option(fc.integer({ min: calendar.periods[0]!.start - 40, max: calendar.periods.at(-1)!.end + 40 })),
      n: fc.option(fc.integer({ min: -30, max: 30 })),
    })
    const parameter = fc.option(fc.constantFrom(...calendar.periods.map(period => period.code), '2019-P01', 'never'))
    await fc.assert(
      fc.asyncProperty(formula, fc.array(row, { minLength: 1, maxLength: 8 }), parameter, async (text, rows, p) => {
        const typed = checkFormula(text, scope)
        const around = { parameters: { p }, today: parseDay('2026-10-31')!, calendar }
        const columns = {
          d: columnOf(
            'date',
            rows.map(each => each.d),
          ),
          n: columnOf(
            'number',
            rows.map(each => (each.n === null ? null : { units: each.n, scale: 0 })),
          ),
        }
        const evaluate = compileFormula(typed, {
          levels: [level],
          data: { levels: [{ count: rows.length, columns, starts: Int32Array.from([0, rows.length]) }] },
          ...around,
        })
        const said = (value: Value) => (typeof value === 'number' ? dayText(value) : value)
        const values = sql.join(
          rows.map((each, index) => sql`(${index}::int, ${each.d === null ? null : dayText(each.d)}::date, ${each.n}::int)`),
          sql`, `,
        )
        const { sql: statement, params } = new PgDialect().sqlToQuery(
          sql`select (${formulaSql(typed, { column: path => sql`r.${sql.identifier(path)}`, ...around })})::text as x from (values
            ${values}) as r(i, d, n) order by r.i`,
        )
        const found = (await db.query<{ x: string | null }>(statement, params)).rows.map(each =>
          typed.type === 'boolean' ? each.x === 'true' : each.x,
        )
        expect(found, text).toEqual(rows.map((_, index) => said(evaluate({ level: 0, from: index, to: index + 1 }))))
      }),
      { numRuns: 60 },
    )
  })
})
