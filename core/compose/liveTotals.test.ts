import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { GroupNode } from '../formula/standing'
import { decimal, type Decimal } from '../value/decimal'
import type { GridCell, GridRow } from './gridRows'
import { LiveTotals } from './liveTotals'

const style = {} as GridCell['style']
const cell = (column: number, units: number, formula: string): GridCell => ({
  column,
  id: `c${column}`,
  text: '',
  value: decimal(units, 2),
  formula,
  style,
})
const node = (depth: number): GroupNode => ({ depth, from: 0, to: 0, children: [], label: '', number: 1 })

/** What a spreadsheet makes of SUBTOTAL(9): the plain numbers of the range; places that hold a formula of this kind are left out. */
function subtotal(sheet: readonly { units: number; live: boolean }[], from: number, to: number): number {
  return sheet
    .slice(from - 1, to)
    .filter(each => !each.live)
    .reduce((sum, each) => sum + each.units, 0)
}

describe('totals that the cells above them reproduce', () => {
  it('come out the same when a spreadsheet adds up the range, for any groups and any figures', () => {
    const groups = fc.array(fc.array(fc.integer({ min: -1_000_000, max: 1_000_000 }), { maxLength: 6 }), { minLength: 1, maxLength: 6 })
    fc.assert(
      fc.property(groups, fc.boolean(), fc.boolean(), (amounts, lines, wrong) => {
        const live = new LiveTotals()
        const sheet: { units: number; live: boolean }[] = []
        const put = (row: GridRow): void => {
          const found = live.row(row, sheet.length + 1)
          const [own] = row.cells
          const units = (own!.value as Decimal).units as number
          const total = found.get(own!)
          if (total && 'from' in total) expect(subtotal(sheet, total.from, total.to)).toBe(units)
          sheet.push({ units, live: !!total })
        }
        let all = 0
        for (const list of amounts) {
          const nodes = [node(0)]
          const sum = list.reduce((total, each) => total + each, 0)
          all += sum
          if (lines)
            for (const each of list) put({ kind: 'line', cells: [cell(0, each, 'amount')], depth: 1, table: 't', instance: 1, nodes })
          put({
            kind: 'groupEnd',
            group: 'g',
            cells: [cell(0, sum + (wrong ? 1 : 0), 'sum(amount)')],
            depth: 0,
            table: 't',
            instance: 1,
            nodes,
          } as GridRow)
        }
        put({ kind: 'end', cells: [cell(0, all, 'sum(amount)')], depth: 0, table: 't', instance: 1, nodes: [] })
        // a figure that is not the sum of its cells is never written as one
        const values = sheet.filter(each => !each.live).length
        if (wrong && lines && amounts.every(list => list.length))
          expect(values).toBeGreaterThanOrEqual(amounts.flat().length + amounts.length)
      }),
    )
  })
  it('stay values where the cells are of another kind, or a condition stands in the total', () => {
    const asked = (line: string, end: string, value: number) => {
      const live = new LiveTotals()
      const nodes: GroupNode[] = []
      for (const [index, units] of [100, 250, 300].entries())
        live.row({ kind: 'line', cells: [cell(0, units, line)], depth: 0, table: 't', instance: 1, nodes }, index + 1)
      const own = cell(0, value, end)
      return live.row({ kind: 'end', cells: [own], depth: 0, table: 't', instance: 1, nodes }, 4).get(own)
    }
    expect(asked('amount', 'sum(amount)', 650)).toEqual({ function: 9, column: 0, from: 1, to: 3 })
    expect(asked('quantity', 'sum(amount)', 650)).toBeUndefined()
    expect(asked('amount', 'sum(amount, where: kind = "item")', 650)).toBeUndefined()
    expect(asked('amount', 'sum(amount) / sum(amount)', 650)).toBeUndefined()
    expect(asked('amount', 'max(amount)', 300)).toEqual({ function: 4, column: 0, from: 1, to: 3 })
    expect(asked('amount', 'min(amount)', 100)).toEqual({ function: 5, column: 0, from: 1, to: 3 })
    expect(asked('amount', 'average(amount)', 217)).toBeUndefined()
  })
})

it('a statement’s rows come to what they add up and take off: given where the printed figures say so, whatever they are', () => {
  const figure = fc.integer({ min: -1_000_000, max: 1_000_000 })
  fc.assert(
    fc.property(
      fc.array(figure, { minLength: 1, maxLength: 5 }),
      fc.array(figure, { minLength: 1, maxLength: 4 }),
      fc.boolean(),
      (incomes, costs, wrong) => {
        const live = new LiveTotals()
        const sheet: number[] = []
        const put = (id: string, units: number, adds?: { row: string; by: 1 | -1 }[]) => {
          const own = cell(0, units, '')
          const found = live.row(
            { kind: 'line', cells: [own], depth: 0, table: 's', instance: 1, nodes: [], id, ...(adds ? { adds } : {}) },
            sheet.push(units),
          )
          return found.get(own)
        }
        incomes.forEach((units, index) => put(`income${index}`, units))
        costs.forEach((units, index) => put(`cost${index}`, units))
        const sum = (list: readonly number[]) => list.reduce((total, each) => total + each, 0)
        const result = put('result', sum(incomes) - sum(costs) + (wrong ? 1 : 0), [
          ...incomes.map((_, index) => ({ row: `income${index}`, by: 1 as const })),
          ...costs.map((_, index) => ({ row: `cost${index}`, by: -1 as const })),
          { row: 'leftOut', by: 1 as const },
        ])
        expect(!!result).toBe(!wrong)
        if (result && 'terms' in result)
          expect(result.terms.reduce((total, { row, by }) => total + by * sheet[row - 1]!, 0)).toBe(sheet.at(-1))
      },
    ),
  )
})
