import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { PGlite } from '@electric-sql/pglite'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Team } from '../core/api/people'
import type { Guard } from '../core/guard/guards'
import { companyFolder, sourceId } from '../demo/source'
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
]

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
  const guarded: Context = {
    person: 'guarded',
    signedIn: { id: 'guarded', name: 'Guarded', signIn: 'guarded', role: 'author', teams },
  }
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

  it('every report of the library gives the rows of the copy', async () => {
    const [own, expected] = [await rowsOf(whole, guarded, folders[0]!), await rowsOf(copy, tester, folders[1]!)]
    for (const name of Object.keys(expected)) expect(own[name], name).toEqual(expected[name])
    expect(Object.values(expected).filter(each => typeof each !== 'string').length).toBeGreaterThan(10)
  })
})
