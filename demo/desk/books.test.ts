import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, expect, it } from 'vitest'
import { demoDatabase } from '../../tests/support'
import type { DeskEntry } from '../../core/api/desk'
import { DeskError, postEntry } from './books'
import { fillDemo } from '../company/fill'

let db: PGlite
let branches: string[]
beforeAll(async () => {
  ;({ db } = await demoDatabase())
  branches = (await db.query<{ code: string }>('select code from branches order by id')).rows.map(row => row.code)
})
const entry = (change: Partial<DeskEntry> = {}): DeskEntry => ({
  date: '2026-10-20',
  description: 'Paint for the office',
  lines: [
    { account: '6150', branch: branches[0]!, department: 'ADM', debit: '120.50' },
    { account: '1010', branch: branches[0]!, credit: '120.50' },
  ],
  ...change,
})
const refused = async (change: Partial<DeskEntry>) =>
  postEntry(db, 'company', entry(change)).then(
    () => 'posted',
    (error: unknown) => (error instanceof DeskError ? error.message : Promise.reject(error as Error)),
  )
const balances = async () =>
  (await db.query('select account_code, branch_id, sum(debit - credit) as balance from journal_lines group by 1, 2 order by 1, 2'))
    .rows as { account_code: string; branch_id: number; balance: string }[]

it('posts a balanced entry, and exactly that', async () => {
  const before = await balances()
  expect(await postEntry(db, 'company', entry({ document: 'B-77' }))).toBe('D-000001')
  const after = await balances()
  const change = (code: string) =>
    Number(after.find(row => row.account_code === code && row.branch_id === 1)!.balance) -
    Number(before.find(row => row.account_code === code && row.branch_id === 1)?.balance ?? 0)
  expect([change('6150').toFixed(2), change('1010').toFixed(2)]).toEqual(['120.50', '-120.50'])
  expect(after.filter(row => !['6150', '1010'].includes(row.account_code) || row.branch_id !== 1)).toEqual(
    before.filter(row => !['6150', '1010'].includes(row.account_code) || row.branch_id !== 1),
  )
  expect((await db.query("select number, document_number, period_number from journals where source = 'desk'")).rows).toEqual([
    { number: 'D-000001', document_number: 'B-77', period_number: 7 },
  ])
})

it('stays through an upgrade', async () => {
  await db.exec('drop table budgets')
  await fillDemo(db, 'company', 1)
  expect((await db.query("select count(*)::int as n from journals where source = 'desk'")).rows).toEqual([{ n: 1 }])
  expect((await db.query('select count(*)::int as n from budgets')).rows).not.toEqual([{ n: 0 }])
  expect((await db.query('select journal_id from journal_lines group by 1 having sum(debit) <> sum(credit)')).rows).toEqual([])
})

it('an entry is taken where it balances within each branch, and only there', async () => {
  const cents = fc.integer({ min: 1, max: 1_000_000 })
  const line = fc.record({ branch: fc.nat(2), amount: cents, debit: fc.boolean() })
  const money = (value: number) => (value / 100).toFixed(2)
  await fc.assert(
    fc.asyncProperty(fc.array(line, { minLength: 2, maxLength: 6 }), fc.boolean(), async (lines, even) => {
      const sums = [0, 1, 2].map(branch =>
        lines.filter(each => each.branch === branch).reduce((sum, each) => sum + (each.debit ? each.amount : -each.amount), 0),
      )
      const added = even ? sums.flatMap((sum, branch) => (sum ? [{ branch, amount: Math.abs(sum), debit: sum < 0 }] : [])) : []
      const all = [...lines, ...added].map(each => ({
        account: '6135',
        branch: branches[each.branch]!,
        ...(each.debit ? { debit: money(each.amount) } : { credit: money(each.amount) }),
      }))
      const outcome = await refused({ lines: all })
      expect(outcome, JSON.stringify(all)).toMatch(even || sums.every(sum => sum === 0) ? /^posted$/ : /does not balance in branch/)
    }),
    { numRuns: 30 },
  )
})

it('says in one sentence what is wrong', async () => {
  const lines = (change: object) => ({ lines: [{ ...entry().lines[0]!, ...change }, entry().lines[1]!] })
  expect(await refused({ date: '2026-02-30' })).toBe('“2026-02-30” is no date; write it as 2026-10-31.')
  expect(await refused({ date: '2025-06-01' })).toBe('The fiscal year 2025/26 is closed; choose a later date.')
  expect(await refused({ date: '2031-06-01' })).toMatch(/^No fiscal period holds 2031-06-01/)
  expect(await refused({ description: ' ' })).toMatch(/has no description/)
  expect(await refused(lines({ account: '6666' }))).toBe(
    'Line 1 is on the account “6666”, which does not exist; choose one of the chart of accounts.',
  )
  expect(await refused(lines({ account: '6101' }))).toBe(
    'Line 1 is on the account “6101”, a heading of the chart of accounts; choose one that stands under it.',
  )
  expect(await refused(lines({ debit: '12.345' }))).toMatch(/^Line 1 has the amount “12.345”/)
  expect(await refused(lines({ credit: '1' }))).toBe('Line 1 needs a debit or a credit, and not both.')
  expect(await refused(lines({ branch: 'ZZ' }))).toMatch(/^Line 1 names a branch/)
  expect(await refused(lines({ account: "6150'; drop table journals; --" }))).toMatch(/does not exist/)
})
