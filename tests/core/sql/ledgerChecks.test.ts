import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, expect, it } from 'vitest'
import { demoDatabase, plainFetch } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import { checkLedger } from '../../../core/sql/ledgerChecks'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const sentences = async () =>
  (await checkLedger(catalog.ledger!, 'company', plainFetch(db), catalog.calendar)).map(
    each => `${each.holds ? '+' : '-'} ${each.sentence}`,
  )

it('the books of the demo company are found and in order', async () => {
  const [{ journals, accounts }] = (
    await db.query<{ journals: number; accounts: number }>(
      'select (select count(*)::int from journals) as journals, (select count(*)::int from accounts) as accounts',
    )
  ).rows as [{ journals: number; accounts: number }]
  expect(catalog.ledger).toMatchObject({
    accounts: { table: 'accounts', code: 'code', type: 'type', class: 'class', side: 'natural_side' },
    lines: { table: 'journal_lines', debit: 'debit', credit: 'credit', branch: 'branch_id', department: 'department_id' },
    journals: { table: 'journals' },
    date: 'posting_date',
    period: { year: 'fiscal_year_id', number: 'period_number' },
    closing: 'is_closing',
    retainedEarnings: '3900',
    budgets: { table: 'budgets', version: 'version', branch: 'branch_id' },
    types: { income: 'income', equity: 'equity' },
  })
  expect(await sentences()).toEqual([
    `+ All ${journals.toLocaleString('en')} journals balance.`,
    '+ They balance within each branch too.',
    '+ Every line of journal lines finds its account.',
    `+ All ${accounts} accounts have a type that is known: asset, liability, equity, income, expense.`,
    '+ All of them lie in a period, from 2024/25 to 2026/27.',
    '+ Every budget finds its account.',
    '+ Results are kept in account 3900.',
  ])
})

it('what is not in order is counted', async () => {
  await db.exec(`begin; alter table journal_lines drop constraint journal_lines_account_code_fkey; update journal_lines set
    account_code = '9999' where journal_id = 1 and line_no < 3; update journal_lines set debit = debit + 1 where (journal_id,
    line_no) = (select journal_id, line_no from journal_lines where debit > 0 order by 1, 2 limit 1);
    alter table journals drop constraint journals_fiscal_year_id_period_number_fkey; update journals set period_number = 14 where
    id = 5; alter table budgets drop constraint budgets_account_code_fkey;
    update budgets set account_code = '9998' where (version, account_code, branch_id, fiscal_year_id, period_number) = (select
    version, account_code, branch_id, fiscal_year_id, period_number from budgets limit 1); update accounts set type = 'odd' where
    code = '6145'`)
  const found = await sentences()
  await db.exec('rollback')
  expect(found[0]).toMatch(/^- 1 journal does not balance, of [\d,]+\.$/)
  expect(found.slice(1)).toEqual([
    '- 1 journal does not balance within a branch.',
    '- 2 lines are on an account that does not exist.',
    '- 1 account has a type that is not known; it stands in no line by type.',
    '- 1 journal lies in no period of the fiscal calendar, and in no statement.',
    '- 1 budget is for an account that does not exist.',
    '+ Results are kept in account 3900.',
  ])
})
