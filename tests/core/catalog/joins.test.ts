import type { Catalog } from '../../../core/books/catalog'
import { sql } from 'drizzle-orm'
import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import { demoDatabase, plainFetch } from '../../support'
import { type Column, type NumberColumn, valueAt } from '../../../core/value/columns'
import { joinCandidates, searchCatalog } from '../../../core/catalog/joins'
import { valueQuery } from '../../../core/sql/search'
import { matchQuery, matchWords, sampleQuery, sampleWords } from '../../../core/sql/match'
import { applySettings, noSettings } from '../../../core/books/settings'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const numbers = (columns: readonly Column[]) => columns.map(column => (column as NumberColumn).values[0])
const table = (name: string) => sql`${sql.identifier('company')}.${sql.identifier(name)}`
const match = async (from: string, to: string, on: { from: string; to: string }[], direction: 'related' | 'detail') => {
  const { columns } = await plainFetch(db)(matchQuery(table(from), table(to), on, direction))
  const [records, finding, orphans, most] = numbers(columns) as [number, number, number, number]
  return { records, finding, orphans, most }
}
const sample = async (from: string, to: string, on: { from: string; to: string }[], direction: 'related' | 'detail') => {
  const { columns } = await plainFetch(db)(sampleQuery(table(from), table(to), on, direction))
  return numbers(columns)
}
const rows = async <T>(text: string) => (await db.query<T>(text)).rows

describe('what can be joined', () => {
  it('declared keys come first, then what is kept, then guesses, none of them twice', () => {
    const relation = {
      from: { table: 'journals', columns: ['document_number'] },
      to: { table: 'invoices', columns: ['number'] },
      unique: true,
    }
    const plain = joinCandidates(catalog, 'invoices')
    const kept = joinCandidates(applySettings(catalog, { ...noSettings, relations: [relation] }), 'invoices')
    expect(plain.filter(each => each.table === 'journals').map(each => each.origin)).toEqual(['guessed'])
    expect(kept.filter(each => each.table === 'journals').map(each => each.origin)).toEqual(['kept'])
    const order = ['declared', 'kept', 'guessed']
    expect(kept.map(each => order.indexOf(each.origin))).toEqual([...kept.map(each => order.indexOf(each.origin))].sort())
    const said = kept.map(each => JSON.stringify([each.table, each.direction, each.on]))
    expect(new Set(said).size).toBe(said.length)
    // what speaks of a table that is gone is left aside
    expect(
      applySettings(catalog, { ...noSettings, relations: [{ ...relation, to: { table: 'nowhere', columns: ['x'] } }] }).foreignKeys,
    ).toEqual(catalog.foreignKeys)
  })

  it('each match equals a naive loop over the rows, for every candidate of several tables', async () => {
    for (const name of ['invoices', 'customers', 'items', 'towns']) {
      const own = await rows<Record<string, unknown>>(`select * from company."${name}"`)
      for (const candidate of joinCandidates(catalog, name)) {
        const other = await rows<Record<string, unknown>>(`select * from company."${candidate.table}"`)
        const key = (row: Record<string, unknown>, side: 'from' | 'to') =>
          candidate.on.some(pair => row[pair[side]] === null) ? undefined : candidate.on.map(pair => String(row[pair[side]])).join('·')
        const count = (list: Record<string, unknown>[], side: 'from' | 'to') => {
          const counts = new Map<string, number>()
          for (const row of list) {
            const found = key(row, side)
            if (found !== undefined) counts.set(found, (counts.get(found) ?? 0) + 1)
          }
          return counts
        }
        const [mine, theirs] = [count(own, 'from'), count(other, 'to')]
        const sum = (counts: Map<string, number>, test: (key: string) => boolean) =>
          [...counts].filter(([each]) => test(each)).reduce((total, [, n]) => total + n, 0)
        expect(await match(name, candidate.table, candidate.on, candidate.direction), `${name} → ${candidate.table}`).toEqual({
          records: own.length,
          finding: sum(mine, each => theirs.has(each)),
          orphans: candidate.direction === 'related' ? sum(mine, each => !theirs.has(each)) : sum(theirs, each => !mine.has(each)),
          most: Math.max(0, ...[...theirs].filter(([each]) => mine.has(each)).map(([, n]) => n)),
        })
        // the first look is at rows of the side that points, and where those are few it is at all of them
        const [pointing, aim] = candidate.direction === 'related' ? [mine, theirs] : [theirs, mine]
        const all = sum(pointing, () => true)
        const [sampled, finding] = await sample(name, candidate.table, candidate.on, candidate.direction)
        expect(sampled, `${name} → ${candidate.table}`).toBe(Math.min(all, 2000))
        if (all <= 2000) expect(finding, `${name} → ${candidate.table}`).toBe(sum(pointing, each => aim.has(each)))
        else expect(finding! <= sum(pointing, each => aim.has(each)) && finding! >= 2000 - sum(pointing, each => !aim.has(each))).toBe(true)
      }
    }
  })

  it.each([
    [{ sampled: 2000, finding: 1960 }, 'related', 'of the first 2,000 invoices 98 % have one · counting …'],
    [{ sampled: 7, finding: 7 }, 'detail', 'of the first 7 items 100 % belong to an invoice · counting …'],
    [{ sampled: 0, finding: 0 }, 'related', 'counting …'],
  ] as const)('a first look %j at %s reads “%s”', (found, direction, words) => {
    expect(sampleWords(found, direction, 'invoice', 'item')).toBe(words)
  })

  it.each([
    [{ records: 10, finding: 10, orphans: 0, most: 1 }, 'related', 'every invoice has one'],
    [{ records: 3000, finding: 2997, orphans: 3, most: 1 }, 'related', '99 % of invoices have one · 3 invoices find no item'],
    [{ records: 10, finding: 0, orphans: 1, most: 0 }, 'related', 'no invoice has one · 1 invoice finds no item'],
    [{ records: 10, finding: 10, orphans: 0, most: 120 }, 'detail', 'every invoice has some · up to 120 for one invoice'],
    [
      { records: 1000, finding: 2, orphans: 1, most: 1 },
      'detail',
      'under 1 % of invoices have some · one for one invoice · 1 item belongs to no invoice',
    ],
    [{ records: 0, finding: 0, orphans: 0, most: 0 }, 'related', 'there are no invoices yet'],
  ] as const)('%j of %s reads “%s”', (found, direction, words) => {
    expect(matchWords(found, direction, 'invoice', 'item')).toBe(words)
  })
})

describe('finding a table', () => {
  it('by its name, its comment, a column, a column’s comment, the closest first', () => {
    const tables = (search: string) => searchCatalog(catalog, search).map(hit => hit.table)
    expect(tables('invoices')[0]).toBe('invoices')
    expect(tables('credit notes')).toContain('applications')
    for (const [typed, best] of [
      ['invoice', 'invoices'],
      ['Invoices', 'invoices'],
      ['invoice line', 'invoice_lines'],
      ['item', 'items'],
    ] as const)
      expect([typed, tables(typed)[0]]).toEqual([typed, best])
    expect(searchCatalog(catalog, 'due date')).toContainEqual({ table: 'invoices', column: 'due_date', where: 'column', rank: 4 })
    expect(searchCatalog(catalog, 'list price')).toContainEqual({ table: 'items', column: 'price', where: 'comment', rank: 5 })
    expect(tables('   ')).toEqual([])
  })

  it('by a value: every column that holds it, with the number of rows, as SQL counts them', async () => {
    for (const value of ['INV-10232', 'marina do sul', '21', '2026-09-30', 'O’Hara', '%', "'; drop table company.invoices; --"]) {
      for (const each of catalog.tables) {
        const query = valueQuery('company', each, value)
        const found = await plainFetch(db)(query)
        for (const [index, column] of query.columns.entries()) {
          if (!column.path) continue
          const { type } = each.columns.find(other => other.name === column.path)!
          const list = await rows<{ x: string | null }>(`select "${column.path}"::text as x from company."${each.name}"`)
          const holds = (x: string | null) =>
            x !== null &&
            (type === 'number'
              ? Number(x) === Number(value)
              : type === 'date' || value.length < 3
                ? x === value
                : x.toLowerCase().includes(value.toLowerCase()))
          expect((valueAt(found.columns[index]!, 0) as { units: number }).units, `${value} in ${each.name}.${column.path}`).toBe(
            list.filter(row => holds(row.x)).length,
          )
        }
      }
    }
  })
})
