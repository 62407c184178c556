import type { Catalog } from '../../../core/books/catalog'
import { beforeAll, describe, expect, it } from 'vitest'
import { demoDatabase } from '../../support'
import { isKeyColumn, keyOf, relationsOf, singular } from '../../../core/catalog/relations'
import { findTable, readable } from '../../../core/catalog/types'

let catalog: Catalog
beforeAll(async () => {
  ;({ catalog } = await demoDatabase())
})

describe('what can be joined, by foreign keys', () => {
  it('records that an invoice points at, and records that point at it', () => {
    const found = relationsOf(catalog, 'invoices').map(({ direction, name, table, on }) => [
      direction,
      name,
      table,
      on.map(pair => `${pair.from}=${pair.to}`).join(),
    ])
    expect(found).toContainEqual(['related', 'customer', 'customers', 'customer_id=id'])
    expect(found).toContainEqual(['related', 'payment_term', 'payment_terms', 'payment_term_code=code'])
    expect(found).toContainEqual(['detail', 'lines', 'invoice_lines', 'id=invoice_id'])
    expect(found).toContainEqual(['detail', 'taxes', 'invoice_taxes', 'id=invoice_id'])
    // two keys lead from applications to invoices: each has a name of its own
    expect(found).toContainEqual(['detail', 'applications_by_invoice', 'applications', 'id=invoice_id'])
    expect(found).toContainEqual(['detail', 'applications_by_credit_note', 'applications', 'id=credit_note_id'])
  })
  it('keys of several columns go in pairs', () => {
    expect(relationsOf(catalog, 'journals')).toContainEqual({
      direction: 'related',
      table: 'fiscal_periods',
      name: 'fiscal_period',
      foreignKey: 'journals_fiscal_year_id_period_number_fkey',
      on: [
        { from: 'fiscal_year_id', to: 'fiscal_year_id' },
        { from: 'period_number', to: 'number' },
      ],
    })
  })
  it('a table may point at itself', () => {
    expect(
      relationsOf(catalog, 'item_categories')
        .filter(relation => relation.table === 'item_categories')
        .map(relation => relation.direction),
    ).toEqual(['related', 'detail'])
  })
  it('every foreign key of the source is found from both of its ends', () => {
    for (const key of catalog.foreignKeys) {
      expect(
        relationsOf(catalog, key.from.table).some(relation => relation.direction === 'related' && relation.foreignKey === key.name),
      ).toBe(true)
      expect(relationsOf(catalog, key.to.table).some(relation => relation.direction === 'detail' && relation.foreignKey === key.name)).toBe(
        true,
      )
    }
  })
})

it('knows keys', () => {
  expect(keyOf(findTable(catalog, 'invoice_lines')!)).toEqual(['invoice_id', 'line_no'])
  expect(isKeyColumn(catalog, 'invoices', 'customer_id')).toBe(true)
  expect(isKeyColumn(catalog, 'invoices', 'total')).toBe(false)
})

it.each([
  ['taxes', 'tax'],
  ['lines', 'line'],
  ['categories', 'category'],
  ['salespeople', 'salesperson'],
  ['branches', 'branch'],
  ['invoice', 'invoice'],
  ['address', 'address'],
  ['buses', 'bus'],
])('%s: one is a %s', (many, one) => {
  expect(singular(many)).toBe(one)
})
it.each([
  ['invoice_date', 'Invoice date'],
  ['customer_id', 'Customer'],
  ['netWeight', 'Net weight'],
  ['total', 'Total'],
])('%s reads as %s', (name, words) => {
  expect(readable(name)).toBe(words)
})
