import { describe, expect, it } from 'vitest'
import type { CatalogTable } from '../catalog/types'
import { nearness, proposeMatches, type Samples } from './match'

const table = (name: string, columns: Record<string, CatalogTable['columns'][0]['type']>, key: string[] = []): CatalogTable => ({
  schema: '',
  name,
  columns: Object.entries(columns).map(([column, type]) => ({ name: column, type, databaseType: type, required: true })),
  primaryKey: key,
  rowEstimate: 10,
})
const source = (...tables: CatalogTable[]) => ({ tables, foreignKeys: [] })
const needs = (own: CatalogTable) => [
  { table: own.name, uses: [], columns: own.columns.map(column => ({ column: column.name, uses: [] })) },
]
const samples = (of: Record<string, Record<string, string[]>>): Samples =>
  new Map(
    Object.entries(of).map(([name, columns]) => [name, new Map(Object.entries(columns).map(([column, list]) => [column, new Set(list)]))]),
  )

describe('matches', () => {
  it.each([
    ['invoice_date', 'InvoiceDate', 'inv_no'],
    ['customers', 'CUST', 'items'],
    ['quantity', 'QTY', 'amount'],
    ['due_date', 'Date due', 'invoice_date'],
  ])('“%s” is nearer to “%s” than to “%s”', (name, near, far) => {
    expect(nearness(name, near)).toBeGreaterThan(nearness(name, far))
    expect(nearness(name, near)).toBeCloseTo(nearness(near, name), 10)
  })

  it('by values where names say nothing, and small numbers that stand everywhere do not', () => {
    const own = table('orders', { customer_id: 'number', place: 'text' })
    const other = table('orders', { id: 'number', kdnr: 'number', ort: 'text' })
    const list = (from: number, to: number) => Array.from({ length: to - from }, (_, at) => String(from + at))
    const found = proposeMatches(needs(own), source(own), source(other), {
      own: samples({ orders: { customer_id: list(0, 20), place: ['Foz', 'Barra', 'Leme', 'Norte'] } }),
      other: samples({ orders: { id: list(0, 1000), kdnr: list(0, 20), ort: ['Foz', 'Barra', 'Leme', 'Norte'] } }),
    })
    expect(found[0]!.columns.map(({ column, to }) => [column, to])).toEqual([
      ['customer_id', 'kdnr'],
      ['place', 'ort'],
    ])
    expect(found[0]!.columns[1]!.why).toEqual(['100 % of the values looked at agree'])
  })

  it('each table and column of the other source is taken once; what is of another kind is never sure', () => {
    const own = table('bills', { total: 'number', total_net: 'number', day: 'date' })
    const other = table('bills', { total: 'number', day: 'text' })
    const [found] = proposeMatches(needs(own), source(own), source(other, table('bill_lines', { total: 'number' })))
    expect(found!.to).toBe('bills')
    const taken = found!.columns.flatMap(({ to }) => to ?? [])
    expect(new Set(taken).size).toBe(taken.length)
    expect(found!.columns[0]).toMatchObject({ to: 'total', sure: 'sure' })
    expect(found!.columns[2]).toMatchObject({ to: 'day', sure: 'likely', why: ['same name', 'holds texts, not dates'] })
  })

  it('nothing near is no match', () => {
    const own = table('quays', { berth: 'text' })
    expect(proposeMatches(needs(own), source(own), source(table('salaries', { amount: 'number' })))[0]).toMatchObject({
      sure: 'unsure',
      why: ['no table is near'],
    })
  })
})
