import { beforeAll, describe, expect, it } from 'vitest'
import { creditNote, customerMovements, demoReports, flatRegister, invoiceRegister, itemSales } from '../../../demo/reports/reports'
import { demoDatabase } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import { putCalculated, removeCalculated, tickField } from '../../../core/definition/edits/levels'
import { usesOf } from '../../../core/compose/uses'

let catalog: Catalog
beforeAll(async () => {
  ;({ catalog } = await demoDatabase())
})
const said = (...args: Parameters<typeof usesOf>) => usesOf(...args).map(use => `${use.what}: ${use.name}`)

describe('where used', () => {
  it('a table: as a level, a related record, a child total, choices, in a text', () => {
    expect(said(invoiceRegister(), catalog, { table: 'applications' })).toContain('child total: invoice.settled')
    expect(said(invoiceRegister(), catalog, { table: 'regions' })).toEqual(
      expect.arrayContaining(['related record: invoice.customer.town.region', 'parameter: Region']),
    )
    expect(said(itemSales(), catalog, { table: 'invoice_lines' })).toContain('level: Line')
    expect(said(flatRegister(), catalog, { table: 'customers' })).toContain('SQL text: flat')
    expect(said(customerMovements(), catalog, { table: 'receipts' })).toContain('level: Receipt')
    expect(said(creditNote(), catalog, { table: 'warehouses' })).toEqual([])
  })

  it('a column: ticked, filtered, sorted, worked with, printed, added up', () => {
    expect(said(invoiceRegister(), catalog, { table: 'invoices', column: 'total' })).toEqual(
      expect.arrayContaining(['field: invoice.total', 'calculated field: invoice.open', 'layout: Standard: register']),
    )
    expect(said(invoiceRegister(), catalog, { table: 'invoices', column: 'invoice_date' })).toEqual(
      expect.arrayContaining([expect.stringMatching(/^filter: Invoice: invoice_date between/), 'sort: Invoice: invoice_date']),
    )
    expect(said(invoiceRegister(), catalog, { table: 'applications', column: 'amount' })).toContain('child total: invoice.settled')
    expect(said(itemSales(), catalog, { table: 'items', column: 'cost' })).toContain('measure: items_sold.profit')
    expect(said(flatRegister(), catalog, { table: 'invoice_lines', column: 'amount' })).toContain('SQL text: flat')
    expect(said(invoiceRegister(), catalog, { table: 'invoices', column: 'note' })).toEqual([])
  })

  it('a calculated field, its own and one kept with the source', () => {
    const own = invoiceRegister()
    expect(said(own, catalog, { table: 'invoices', column: 'open' })).toEqual(
      expect.arrayContaining(['calculated field: invoice.open', 'calculated field: invoice.base_open', 'layout: Standard: register']),
    )
    const shared: Catalog = {
      ...catalog,
      tables: catalog.tables.map(table =>
        table.name === 'invoices' ? { ...table, calculated: [{ name: 'net', formula: 'total - tax_total' }] } : table,
      ),
    }
    const reads = putCalculated(tickField(removeCalculated(own, 'invoice', 'base_open'), 'invoice', '', 'net', true), 'invoice', {
      name: 'double',
      formula: 'net * 2',
    })
    expect(said(reads, shared, { table: 'invoices', column: 'net' })).toEqual(
      expect.arrayContaining(['field: invoice.net', 'calculated field: invoice.double']),
    )
  })

  it('every table that a report names is found by it', () => {
    for (const { name, definition } of demoReports()) {
      const text = JSON.stringify(definition)
      for (const table of catalog.tables) {
        if (text.includes(`"table":"${table.name}"`))
          expect(usesOf(definition, catalog, { table: table.name }).length, `${table.name} in ${name}`).toBeGreaterThan(0)
      }
    }
  })
})
