// @vitest-environment happy-dom
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import { levelTree } from '../../core/model/levels'
import { checkFormula } from '../../core/formula/check'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoDatabase } from '../../tests/support'
import '../../tests/appWords'
import { counted, fieldTitle } from './cells'
import { choicesAt, fieldFormula, levelOfBlock, scopeOfBlock } from './scope'

let catalog: Catalog
beforeAll(async () => {
  ;({ catalog } = await demoDatabase())
})

describe('a field put on the sheet', () => {
  it('is written so that it means that field, wherever it is dropped', () => {
    const { levels } = levelTree(salesInvoice().dataSets[0]!, catalog)
    for (const standing of levels) {
      for (const level of levels) {
        for (const field of level.fields.values()) {
          const formula = fieldFormula(levels, standing.index, level.index, field.path)
          const typed = checkFormula(formula, { levels, level: standing.index, parameters: {} })
          const read = typed.is === 'total' ? typed.value! : typed
          expect(read.is === 'field' && [read.level, read.path], `${formula} on ${standing.name}`).toEqual([level.index, field.path])
        }
      }
    }
  })
  it('a measure of a level below is summed, anything else is the first', () => {
    const { levels } = levelTree(salesInvoice().dataSets[0]!, catalog)
    expect(fieldFormula(levels, 0, 1, 'amount')).toBe('sum(lines.amount)')
    expect(fieldFormula(levels, 0, 1, 'item.code')).toBe('first(lines.item.code)')
    expect(fieldFormula(levels, 1, 0, 'total')).toBe('total')
    // the lines have a kind of their own
    expect(fieldFormula(levels, 1, 0, 'kind')).toBe('invoice.kind')
    expect(fieldFormula(levels, 1, 2, 'amount')).toBe('sum(taxes.amount)')
  })
})

it('everything the picker offers at a block can be used there', () => {
  const definition = salesInvoice()
  const { levels } = levelTree(definition.dataSets[0]!, catalog)
  for (const block of ['lines', 'heading', 'pageTop', 'taxes']) {
    const scope = scopeOfBlock(definition, levels, block)
    const choices = choicesAt(scope, definition)
    expect(choices.length).toBeGreaterThan(60)
    for (const choice of choices)
      if (!choice.insert.endsWith('()')) expect(() => checkFormula(choice.insert, scope), choice.insert).not.toThrow()
    // fields of the block's own level come first
    expect(choices[0]!.level).toBe(levelOfBlock(definition, levels, block))
  }
})

it('titles say whose field it is', () => {
  const { levels } = levelTree(salesInvoice().dataSets[0]!, catalog)
  const title = (level: number, path: string) => fieldTitle(levels[level]!.fields.get(path)!)
  expect([
    title(0, 'total'),
    title(0, 'customer.name'),
    title(0, 'customer.code'),
    title(0, 'customer.town.region.name'),
    title(0, 'customer.address'),
    title(1, 'item.category.name'),
  ]).toEqual(['Total', 'Customer', 'Customer code', 'Region', 'Customer: address', 'Category'])
})

it.each([
  [1, 'Lines', '1 line'],
  [4, 'Lines', '4 lines'],
  [0, 'Taxes', '0 taxes'],
  [1, 'Taxes', '1 tax'],
  [84, 'Invoice', '84 invoices'],
  [2614, 'Invoice', '2,614 invoices'],
  [1, 'Invoice', '1 invoice'],
])('%d of %s are %s', (count, caption, words) => {
  expect(counted(count, caption)).toBe(words)
})
