import type { StatementBlock, StatementLine } from '../definition/blocks/statement'
import { type Decimal, round, zero, add, subtract, isZero, compareDecimals, absolute, negate } from '../value/decimal'
import type { Account } from './accounts'
import type { StandingColumn } from './columns'

/**
 * Figures as they are printed. In whole thousands, totals are rounded from the true figure and what they add up follows by largest
 * remainder, column by column (rule 32); the last totals
 * come first, since what stands above them has to add up to them.
 */
export class Rounding {
  private readonly shown = new Map<string, (Decimal | null)[]>()
  private readonly shownAccounts = new Map<string, Map<number, (Decimal | null)[]>>()
  constructor(
    private readonly block: StatementBlock,
    lines: readonly ReadyLine[],
    columns: readonly StandingColumn[],
    exact: ReadonlyMap<string, (Decimal | null)[]>,
    ofAccounts: ReadonlyMap<string, Map<number, (Decimal | null)[]>>,
    sumsOf: ReadonlyMap<string, string[]>,
    worse: (line: string) => boolean,
  ) {
    const power = scalePowers[block.scale]
    const ready = new Map(lines.map(each => [each.line.id, each]))
    const plain = (values: readonly (Decimal | null)[], line: StatementLine) =>
      values.map((value, at) =>
        value === null || line.format || isPercent(columns[at]!) ? value : round(moved(value, power), block.decimals),
      )
    for (const [id, values] of exact) this.shown.set(id, plain(values, ready.get(id)!.line))
    for (const [id, map] of ofAccounts)
      this.shownAccounts.set(id, new Map([...map].map(([place, values]) => [place, plain(values, ready.get(id)!.line)])))
    // cents add up by themselves, but for averages
    const exactly = block.scale === 'units' && block.decimals >= 2
    columns.forEach((column, at) => {
      if (isPercent(column) || (exactly && column.column.kind !== 'average')) return
      const fixed = new Set<string>()
      const truth = (id: string) => moved(exact.get(id)?.[at] ?? zero, power)
      for (const { line, addends } of [...lines].reverse()) {
        const parts =
          line.kind === 'sum'
            ? sumsOf.get(line.id)!.map(id => ({ line: id, by: 1 as const }))
            : line.kind === 'formula' && !line.format
              ? addends
              : undefined
        if (!parts?.length || exact.get(line.id)?.[at] === null) continue
        fixed.add(line.id)
        // where better is positive, what is taken off as a cost comes in as a gain
        const turned = (id: string) => (column.column.kind === 'difference' && column.column.favourable && worse(id) ? -1 : 1)
        const own = parts.map(part => ({ line: part.line, by: (part.by * turned(part.line) * turned(line.id)) as 1 | -1 }))
        const free = own.filter(part => !fixed.has(part.line))
        const given = own
          .filter(part => fixed.has(part.line))
          .reduce<Decimal>((sum, part) => add(sum, signed(this.shown.get(part.line)?.[at] ?? zero, part.by)), zero)
        const target = subtract(this.shown.get(line.id)![at] ?? zero, given)
        spread(
          free.map(part => signed(truth(part.line), part.by)),
          target,
          block.decimals,
        ).forEach((value, index) => {
          const { line: id, by } = free[index]!
          const values = this.shown.get(id)
          if (values) values[at] = signed(value, by)
          fixed.add(id)
        })
      }
      for (const [id, map] of this.shownAccounts) {
        const entries = [...map.values()]
        spread(
          entries.map((_, index) => moved([...ofAccounts.get(id)!.values()][index]![at] ?? zero, power)),
          this.shown.get(id)![at] ?? zero,
          block.decimals,
        ).forEach((value, index) => {
          if (entries[index]![at] !== null) entries[index]![at] = value
        })
      }
    })
  }

  of(id: string): readonly (Decimal | null)[] | undefined {
    return this.shown.get(id)
  }

  ofAccount(id: string, place: number): readonly (Decimal | null)[] {
    return this.shownAccounts.get(id)!.get(place)!
  }
}

/** Rounds values so that they add up to a target: those with the largest remainders give way (Hamilton’s method). */
export function spread(values: readonly Decimal[], target: Decimal, scale: number): Decimal[] {
  const found = values.map(value => round(value, scale))
  if (!values.length) return found
  const step: Decimal = { units: 1, scale }
  const off = () =>
    subtract(
      target,
      found.reduce<Decimal>((sum, value) => add(sum, value), zero),
    )
  let rest = off()
  // what is not the sum of these figures cannot be mended by rounding
  if (compareDecimals(absolute(rest), { units: values.length * 2, scale }) > 0) return found
  const up = compareDecimals(rest, zero) > 0
  const order = values
    .map((_, index) => index)
    .sort((a, b) => {
      const [x, y] = [subtract(values[a]!, found[a]!), subtract(values[b]!, found[b]!)]
      return (up ? compareDecimals(y, x) : compareDecimals(x, y)) || a - b
    })
  // a figure that is nothing stays nothing, as long as others can give way
  const willing = order.filter(index => !isZero(values[index]!))
  for (let at = 0; willing.length && compareDecimals(absolute(rest), step) >= 0; at = (at + 1) % willing.length) {
    const index = willing[at]!
    found[index] = up ? add(found[index]!, step) : subtract(found[index]!, step)
    rest = off()
  }
  return found
}

/** A figure in thousands is divided by 10 to this power. */
export const scalePowers = { units: 0, thousands: 3, millions: 6 } as const
export const moved = (value: Decimal, power: number): Decimal => (power ? { units: value.units, scale: value.scale + power } : value)
export const isPercent = ({ column }: StandingColumn) => column.kind === 'percent' || column.kind === 'share'
export const signed = (value: Decimal, by: 1 | -1) => (by === 1 ? value : negate(value))
/** A line made ready: which accounts it takes, and what its formula works out from other lines. */
export interface ReadyLine {
  line: StatementLine
  takes?: (account: Account) => boolean
  /** of a formula: its figure from those of other lines, and the lines it adds up (1) and takes off (−1), where that is all it does */
  evaluate?: (of: (id: string) => Decimal | null) => Decimal | null
  needs?: readonly string[]
  addends?: readonly { line: string; by: 1 | -1 }[]
}
