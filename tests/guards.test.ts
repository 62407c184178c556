import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { PGlite } from '@electric-sql/pglite'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Team } from '../core/api/people'
import type { Guard } from '../core/guard/guards'
import { findTable } from '../core/catalog/types'
import { blankLevel } from '../core/definition/edits/ownTables'
import type { ReportDefinition } from '../core/definition/report'
import { statementsOf } from '../core/model/ledger'
import { readProfile } from '../core/sql/profile'
import type { Rows } from '../core/sql/query'
import { valueQuery } from '../core/sql/search'
import { valueAt } from '../core/value/columns'
import { invoiceRegister } from '../demo/reports/reports'
import { statement } from '../demo/reports/statements'
import { companyFolder, sourceId } from '../demo/source'
import { askSource } from '../server/runs/ask'
import { listParameters, readChoices } from '../server/runs/choices'
import { makeDraft } from '../server/runs/draft'
import type { Question } from '../server/runs/questions'
import type { Context } from '../server/access/context'
import { type Estante, openEstante } from '../server/estante'
import { ownContext } from '../server/access/context'
import { demoData, tester } from './support'

/*
 * Rule 37: a figure in a person's run is the figure of the source without the records that their guards hide. Two sources: one whole, read
 * by somebody with guards; a copy of it from which the same records were deleted by SQL written by hand, read by somebody without.
 */

interface Case {
  name: string
  teams: Team[]
  guards: Guard[]
  /** takes the hidden records out of the copy */
  without: string
}

const team = (id: string, attributes: Team['attributes'] = {}): Team => ({ id, name: id, attributes })
const withBranch = ['invoices', 'orders', 'receipts', 'journal_lines', 'salespeople', 'warehouses', 'budgets']

const cases: Case[] = [
  {
    name: 'one branch, and all that goes with it',
    teams: [team('north', { branches: ['NQ'] })],
    guards: [
      { team: 'north', table: 'branches', is: 'records', formula: 'code in (person.branches)' },
      ...withBranch.map((table): Guard => ({ team: 'north', table, is: 'with', key: `${table}_branch_id_fkey` })),
      { team: 'north', table: 'invoice_lines', is: 'with', key: 'invoice_lines_invoice_id_fkey' },
      { team: 'north', table: 'invoice_taxes', is: 'with', key: 'invoice_taxes_invoice_id_fkey' },
    ],
    without: `
      delete from company.branches where code is distinct from 'NQ';
      ${withBranch.map(table => `delete from company.${table} where branch_id not in (select id from company.branches);`).join('\n')}
      delete from company.invoice_lines where invoice_id not in (select id from company.invoices);
      delete from company.invoice_taxes where invoice_id not in (select id from company.invoices);`,
  },
  {
    name: 'two teams, each with guards of its own',
    teams: [team('euro', { currencies: ['EUR'] }), team('large')],
    guards: [
      { team: 'euro', table: 'customers', is: 'records', formula: 'currency_code in (person.currencies)' },
      { team: 'euro', table: 'invoices', is: 'records', formula: 'currency_code in (person.currencies) and kind = "invoice"' },
      { team: 'large', table: 'invoices', is: 'records', formula: 'total >= 2000' },
      { team: 'large', table: 'invoices', is: 'records', formula: 'invoice_date < date(2026, 10, 1)' },
      { team: 'large', table: 'items', is: 'records', formula: 'category_id != empty' },
      // of a team that this person is not in
      { team: 'others', table: 'invoices', is: 'records', formula: 'false' },
    ],
    without: `
      delete from company.customers where currency_code <> 'EUR';
      delete from company.invoices where not ((currency_code = 'EUR' and kind = 'invoice')
        or (total >= 2000 and invoice_date < '2026-10-01'));
      delete from company.items where category_id is null;`,
  },
  {
    name: 'nothing of a table, by a list that is empty',
    teams: [team('none', { branches: [] })],
    guards: [
      { team: 'none', table: 'receipts', is: 'records', formula: 'not (currency_code in (person.branches))' },
      { team: 'none', table: 'applications', is: 'with', key: 'applications_receipt_id_fkey' },
    ],
    without: 'delete from company.receipts; delete from company.applications;',
  },
]

/** Cells of what a statement gave, row by row. */
const valuesOf = (rows: Rows) => Array.from({ length: rows.count }, (_, row) => rows.columns.map(column => valueAt(column, row)))

/** What a program of Estante gives of all reports of the library: rows of each, as JSON. */
async function rowsOf(app: Estante, context: Context, folder: string): Promise<Record<string, unknown>> {
  const found: Record<string, unknown> = {}
  for (const shelf of await app.store.library(ownContext))
    for (const { id, name } of shelf.reports) {
      const file = join(folder, 'out.json')
      writeFileSync(file, '')
      try {
        const { definition } = await app.store.report(ownContext, id)
        await app.pool.run(context, await app.input(context, name, definition, {}), { format: 'json', file })
        found[name] = JSON.parse(readFileSync(file, 'utf8'))
      } catch (error) {
        found[name] = (error as Error).message
      }
    }
  return found
}

describe.each(cases)('$name', ({ teams, guards, without }) => {
  let whole: Estante
  let copy: Estante
  let folders: string[]
  const guarded: Context = { person: 'guarded', signedIn: { id: 'guarded', name: 'Guarded', signIn: 'guarded', role: 'author', teams } }
  beforeAll(async () => {
    folders = [demoData(), demoData()]
    const db = await PGlite.create(companyFolder(folders[1]!))
    await db.exec(`set session_replication_role = replica; ${without}`)
    await db.close()
    whole = await openEstante({ folder: folders[0]! })
    copy = await openEstante({ folder: folders[1]! })
    await whole.store.saveGuards(ownContext, sourceId, { guards, released: [] })
  })
  afterAll(() => Promise.all([whole.close(), copy.close()]))

  /** The same asked of both, by whoever has guards and by whoever has none. */
  const both = async <T>(ask: (app: Estante, context: Context) => Promise<T>): Promise<[T, T]> => [
    await ask(whole, guarded),
    await ask(copy, tester),
  ]

  it('every report of the library gives the rows of the copy', async () => {
    const [own, expected] = [await rowsOf(whole, guarded, folders[0]!), await rowsOf(copy, tester, folders[1]!)]
    for (const name of Object.keys(expected)) expect(own[name], name).toEqual(expected[name])
    expect(Object.values(expected).filter(each => typeof each !== 'string').length).toBeGreaterThan(10)
    // and the guards do hide something of them
    const all = await rowsOf(whole, tester, folders[0]!)
    expect(Object.keys(all).some(name => JSON.stringify(all[name]) !== JSON.stringify(own[name]))).toBe(true)
  })

  it('so do their parameters and choices, counts, profiles and matches', async () => {
    const [own, expected] = await both(async (app, context) => {
      const register = await app.input(context, 'Register', invoiceRegister(), {})
      const ask = async (question: Question) => valuesOf((await askSource(context, app, register, question)).rows)
      const level = register.definition.dataSets[0]!.root.name
      const profile = async (path: string) => {
        const { rows, type } = await askSource(context, app, register, { kind: 'profile', level, path })
        return readProfile(type!, rows)
      }
      return {
        parameters: await listParameters(context, app, register),
        customers: await readChoices(context, app, register, 'customer', { limit: 1000, count: true, search: 'a' }),
        count: await ask({ kind: 'count' }),
        profiles: [await profile('total'), await profile('customer.name')],
        match: await ask({
          kind: 'match',
          from: 'invoices',
          to: 'customers',
          on: [{ from: 'customer_id', to: 'id' }],
          direction: 'related',
        }),
        split: await ask({ kind: 'split', table: 'invoices', key: ['customer_id'], columns: ['branch_id', 'currency_code'] }),
      }
    })
    expect(own).toEqual(expected)
  })

  it('so do searches in a long list of choices, though somebody who sees all has looked in it before', async () => {
    const numbers = { table: 'invoices', value: 'number', label: 'number' }
    const definition: ReportDefinition = {
      ...invoiceRegister(),
      parameters: [{ name: 'own', label: 'Own', kind: 'choice', required: false, choices: numbers }],
    }
    const search = async (app: Estante, context: Context) => {
      const input = await app.input(context, 'Register', { ...definition, dataSets: invoiceRegister().dataSets }, {})
      const asked = { limit: 5000, count: true }
      // the whole list is read behind the first question, and searches are answered from memory afterwards
      await readChoices(context, app, input, 'own', { ...asked, limit: 5 })
      await new Promise(resolve => setTimeout(resolve, 1500))
      return readChoices(context, app, input, 'own', { ...asked, search: '1' })
    }
    const all = await search(whole, tester)
    expect(all.total).toBeGreaterThan(100)
    const [own, expected] = [await search(whole, guarded), await search(copy, tester)]
    expect(own).toEqual(expected)
    if (guards.some(each => each.table === 'invoices')) expect(own.total).toBeLessThan(all.total!)
  })

  it('so do searches by value, drafts, figures behind statements and tie-outs', async () => {
    const [own, expected] = await both(async (app, context) => {
      const { catalog } = await app.sources.catalog(context, sourceId)
      const searched = await app.sources.reading(context, sourceId, async (snapshot, { schema }) => {
        const found: unknown[] = []
        for (const table of ['customers', 'invoices', 'items', 'receipts'])
          found.push(valuesOf(await snapshot.query(valueQuery(schema, findTable(catalog, table)!, 'EUR'))))
        return found
      })
      const income = await app.input(context, 'Income', statement('income'), { period: '2026-P07' })
      const block = statementsOf(income.definition)[0]!
      const trace = await app.pool.trace(context, income, { statement: block.id, line: 'operatingExpenses', column: 'toDate' })
      const tied = (
        await Promise.all(
          (await app.store.library(ownContext)).flatMap(shelf => shelf.reports.map(each => app.store.report(ownContext, each.id))),
        )
      ).filter(each => each.definition.tieOuts?.length)
      const tieOuts: unknown[] = []
      for (const { name, definition } of tied)
        tieOuts.push([
          name,
          await app.pool.tieOuts(context, await app.input(context, name, definition, {})).catch(error => (error as Error).message),
        ])
      const draft = await makeDraft(context, app, { source: sourceId, table: 'invoices' })
      const pages = await app.pool.firstPage(context, await app.input(context, 'Register', invoiceRegister(), {}))
      return { searched, trace, tieOuts, draft, pages }
    })
    expect(own).toEqual(expected)
    expect(own.tieOuts.length).toBeGreaterThan(0)
  })

  it('so do SQL texts of authors, however they name their tables', async () => {
    const text = `with invoices as (select * from company.invoices where kind <> :kind)
      select i.kind, count(*)::numeric as n, sum(i.total)::numeric as total,
        (select count(*) from customers)::numeric as customers, (select count(*) from only "company"."receipts")::numeric as receipts
      from invoices as i group by i.kind order by 1`
    const columns = (['n', 'total', 'customers', 'receipts'] as const).map(name => ({
      name,
      type: 'number' as const,
      databaseType: 'numeric',
    }))
    const definition: ReportDefinition = {
      ...invoiceRegister(),
      parameters: [{ name: 'kind', label: 'Kind', kind: 'text', required: false, default: '"x"' }],
      tables: [{ kind: 'sql', name: 'own', text, key: [], columns: [{ name: 'kind', type: 'text', databaseType: 'text' }, ...columns] }],
      dataSets: [
        {
          name: 'main',
          source: sourceId,
          root: { ...blankLevel('own', '@own'), fields: ['kind', ...columns.map(each => each.name)] },
          fields: {},
        },
      ],
      layouts: [{ name: 'List', page: invoiceRegister().layouts[0]!.page, blocks: [] }],
      tieOuts: [],
    }
    const [own, expected] = await both(async (app, context) => {
      const file = join(folders[0]!, 'text.json')
      writeFileSync(file, '')
      await app.pool.run(context, await app.input(context, 'Text', definition, {}), { format: 'json', file })
      return readFileSync(file, 'utf8')
    })
    expect(JSON.parse(own)).toEqual(JSON.parse(expected))
    expect(own).toContain('total')
  })

  it('kept runs are for those who see the same or all, and rows that are pinned are told apart', async () => {
    const run = whole.runs.start(guarded, { ...(await whole.input(guarded, 'Register', invoiceRegister(), {})), moment: 0 })
    await run.over
    expect(run.state).toBe('done')
    const administrator: Context = {
      person: 'admin',
      signedIn: { id: 'admin', name: 'Admin', signIn: 'admin', role: 'administrator', teams: [] },
    }
    const asPerson = (more: Partial<NonNullable<Context['signedIn']>>): Context => ({
      person: 'guarded',
      signedIn: { ...guarded.signedIn!, ...more },
    })
    expect(await whole.runs.get(guarded, run.id)).toBe(run)
    expect(await whole.runs.get(administrator, run.id)).toBe(run)
    // somebody else, and the same person with another guard
    expect(await whole.runs.get(asPerson({ id: 'other' }), run.id)).toBeUndefined()
    const narrower = asPerson({ teams: [...teams, team('others')] })
    const { key } = await whole.sources.sight(narrower, sourceId)
    const same = key === (await whole.sources.sight(guarded, sourceId)).key
    expect((await whole.runs.get(narrower, run.id)) === run).toBe(same)
    // an administrator who is in a guarded team sees no run of somebody who sees all
    const all = whole.runs.start(tester, { ...(await whole.input(tester, 'Register', invoiceRegister(), {})), moment: 0 })
    await all.over
    expect(await whole.runs.get({ ...administrator, signedIn: { ...administrator.signedIn!, teams } }, all.id)).toBeUndefined()
    expect(await whole.runs.get(administrator, all.id)).toBe(all)
  })
})

it('a guard whose column is gone shows nothing and says so; tie-outs that fail by guards alone say that', async () => {
  const app = await openEstante({ folder: demoData() })
  const own = [team('quay', { branches: ['NQ'] })]
  const guarded: Context = { person: 'g', signedIn: { id: 'g', name: 'G', signIn: 'g', role: 'reader', teams: own } }
  try {
    await app.store.saveGuards(ownContext, sourceId, {
      guards: [{ team: 'quay', table: 'invoices', is: 'records', formula: 'branch_code in (person.branches)' }],
      released: [],
    })
    const input = await app.checkedInput(guarded, 'Register', invoiceRegister(), {})
    expect(input.guardFaults!.join()).toMatch(/no field “branch_code”.*nothing of “invoices” is shown/)
    const run = app.runs.start(guarded, { ...input, moment: 0 })
    await run.over
    expect([run.state, Object.values(run.result!.rows)]).toEqual(['done', Object.values(run.result!.rows).map(() => 0)])
    // journals balance over all branches, and their lines within one only where the guard does not cut them
    await app.store.saveGuards(ownContext, sourceId, {
      guards: [{ team: 'quay', table: 'journal_lines', is: 'records', formula: 'debit = 0' }],
      released: [],
    })
    const tied = (
      await Promise.all(
        (await app.store.library(ownContext)).flatMap(shelf => shelf.reports.map(each => app.store.report(ownContext, each.id))),
      )
    ).find(each => each.name === 'Trial balance')!
    const whole = await app.pool.tieOuts(tester, await app.input(tester, tied.name, tied.definition, {}))
    const plainly = await app.pool.tieOuts(guarded, await app.input(guarded, tied.name, tied.definition, {}))
    const told = await app.pool.tieOuts(guarded, await app.checkedInput(guarded, tied.name, tied.definition, {}))
    const failing = plainly.filter(each => !each.holds).map(each => each.id)
    expect(failing.length).toBeGreaterThan(0)
    for (const each of told)
      if (failing.includes(each.id) && whole.find(own => own.id === each.id)!.holds)
        expect(each).toMatchObject({ holds: true, sentence: expect.stringMatching(/^Guards hide some/) })
    expect(told.some(each => each.sentence?.startsWith('Guards hide'))).toBe(true)
  } finally {
    await app.close()
  }
})
