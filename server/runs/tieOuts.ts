import { assembleReport, usedFields } from '../../core/compose/assemble'
import { GridMaker } from '../../core/compose/grid'
import type { PreparedBlock } from '../../core/compose/prepared'
import type { Composer } from '../../core/compose/flow'
import { laidStatement, type LaidStatement } from '../../core/compose/statement/lay'
import { type PreparedStatement, statementAmong } from '../../core/compose/statement/prepare'
import { planDataSet } from '../../core/sql/plan'
import { type Fetch, readRecords } from '../../core/read/read'
import type { DataRecords } from '../../core/value/records'
import { layoutOf } from '../../core/definition/walk'
import type { TieFigure, TieOutResult } from '../../core/definition/tieOuts'
import { checkFormula } from '../../core/formula/check'
import { fieldsUsed } from '../../core/formula/parts'
import type { Typed } from '../../core/formula/typed'
import { compileFormula } from '../../core/formula/evaluate'
import { FormulaError } from '../../core/formula/syntax'
import { debitNatured } from '../../core/books/ledger'
import { columnsBehind } from '../../core/statement/trace'
import { NestedReader } from './nested/read'
import { checkTieOuts, TieOutError } from '../../core/tieout/check'
import { add, type Decimal, decimal, negate, zero } from '../../core/value/decimal'
import { composerOf, planningOf } from './execute'
import type { ReadyRun } from './ready'

type Layouted = Exclude<TieFigure, { is: 'formula' }>
const blockOf = (figure: Layouted) => ('statement' in figure ? figure.statement : figure.table)

/** Works out both figures of each tie-out of a run, over all records, not only those of the pages at hand. */
export async function tieOutResults(run: ReadyRun, fetch: Fetch): Promise<TieOutResult[]> {
  const { definition } = run
  const tieOuts = definition.tieOuts ?? []
  if (!tieOuts.length) return []
  const figures = tieOuts.flatMap(each => [each.left, each.right])
  const known = new Map<string, Decimal | null | TieOutError>()
  const put = (figure: TieFigure, work: () => Decimal | null) => {
    try {
      known.set(JSON.stringify(figure), work())
    } catch (error) {
      if (error instanceof TieOutError || error instanceof FormulaError) known.set(JSON.stringify(figure), new TieOutError(error.message))
      else throw error
    }
  }
  const whole = async (report: ReadyRun['report'], used: readonly ReadonlySet<string>[]): Promise<DataRecords> => {
    const plan = planDataSet({ levels: report.tree.levels, used, ...planningOf({ ...run, report }) })
    const handed = report.tree.levels.some(level => [...used[level.index]!].some(path => level.fields.get(path)?.nested))
    const nested = handed && run.inside ? new NestedReader({ ...run, report }, run.inside, 'own') : undefined
    let data: DataRecords | undefined
    const more = nested && { more: (records: DataRecords) => nested.read(records, fetch) }
    for await (const chunk of readRecords(plan, fetch, { chunk: Number.MAX_SAFE_INTEGER, ...more })) data = chunk.records
    return data!
  }
  for (const name of new Set(figures.flatMap(each => (each.is === 'formula' ? [each.dataSet] : [])))) {
    const index = definition.dataSets.findIndex(each => each.name === name)
    const own = figures.filter(each => each.is === 'formula' && each.dataSet === name) as (TieFigure & { is: 'formula' })[]
    if (index < 0) {
      own.forEach(each => put(each, () => fail(`The data set “${name}” is not in the report any more; choose another.`)))
      continue
    }
    const report = assembleReport(definition, run.catalog, index, run.layout)
    const { levels } = report.tree
    const typed = new Map<TieFigure, Typed>()
    for (const each of own) {
      put(each, () => {
        const found = checkFormula(each.formula, { levels, level: 0, parameters: report.parameterTypes })
        if (found.type !== 'number' && found.type !== 'empty')
          fail(`“${each.formula}” is no number; a figure is a total such as sum(amount).`)
        typed.set(each, found)
        return null
      })
    }
    const used = levels.map(() => new Set<string>())
    for (const each of typed.values()) for (const field of fieldsUsed(each)) used[field.level]!.add(field.path)
    const data = await whole(report, used)
    const around = {
      levels,
      data,
      parameters: run.parameters,
      today: run.today,
      ...(run.catalog.calendar ? { calendar: run.catalog.calendar } : {}),
    }
    for (const [each, formula] of typed)
      put(each, () => compileFormula(formula, around)({ level: 0, from: 0, to: data.levels[0]!.count }) as Decimal | null)
  }
  const placed = figures.filter((each): each is Layouted => each.is !== 'formula')
  const layoutName = (each: Layouted) => layoutOf(definition, blockOf(each))?.name
  for (const each of placed)
    if (layoutName(each) === undefined)
      put(each, () =>
        fail(
          `${'statement' in each ? `The statement “${each.statement}”` : `The table “${each.table}”`} is not on a layout any more; ` +
            `choose another figure.`,
        ),
      )
  for (const layout of new Set(placed.flatMap(each => layoutName(each) ?? []))) {
    const report = assembleReport(definition, run.catalog, 0, layout)
    const own = placed.filter(each => layoutName(each) === layout)
    const composer = composerOf({ ...run, report })
    const data = await whole(report, usedFields(report, false))
    composer.values.use(data)
    for (const each of own)
      if (each.is === 'line' || each.is === 'trial')
        put(each, () =>
          each.is === 'line' ? lineFigure(each, report.layout.blocks, composer) : trialFigure(each, report.layout.blocks, composer),
        )
    const tables = own.filter(each => each.is === 'total' || each.is === 'rows')
    if (!tables.length) continue
    const sums = new Map<string, Decimal>()
    const lines = new Map<string, number>()
    const seen = new Set<string>()
    for (const event of new GridMaker(composer).rows(data, 'none')) {
      if ('row' in event && event.row.kind === 'line' && event.row.table) lines.set(event.row.table, (lines.get(event.row.table) ?? 0) + 1)
      if (!('row' in event) || event.row.kind !== 'end') continue
      for (const cell of event.row.cells) {
        if (cell.value === null || typeof cell.value !== 'object') continue
        const key = `${event.row.table} ${cell.id}`
        // only the first figure of a table's end: what stands under it is held against it
        if (event.row.instance !== undefined && seen.has(`${key} ${event.row.instance}`)) continue
        seen.add(`${key} ${event.row.instance}`)
        sums.set(key, add(sums.get(key) ?? zero, cell.value))
      }
    }
    for (const each of tables)
      put(each, () =>
        each.is === 'rows'
          ? decimal(lines.get(each.table) ?? 0, 0)
          : (sums.get(`${each.table} ${each.column}`) ??
            fail(`The end of the table “${each.table}” has no figure in “${each.column}”; tick its total or choose another column.`)),
      )
  }
  const results = checkTieOuts(tieOuts, figure => {
    const found = known.get(JSON.stringify(figure))
    if (found instanceof TieOutError) throw found
    return found ?? null
  })
  // what fails only because guards hide records is no fault of the books
  return results.map(each =>
    !each.holds && run.heldByAll?.includes(each.id)
      ? { id: each.id, name: each.name, holds: true, sentence: 'Guards hide some of its records from you; over all of them it holds.' }
      : each,
  )
}

function fail(sentence: string): never {
  throw new TieOutError(sentence)
}

/** A statement of the layout, laid out, and the places of a column in it: of a repeated one, or of one that adds up others, all of them. */
function standing(
  statement: string,
  column: string,
  blocks: readonly PreparedBlock[],
  composer: Composer,
): { laid: LaidStatement; prepared: PreparedStatement; at: number[] } {
  const prepared = statementAmong(blocks, statement)!
  const laid = laidStatement(prepared, composer)
  const exact = laid.columns.findIndex(each => each.id === column)
  const at = exact >= 0 ? [exact] : laid.columns.flatMap((each, index) => (each.column.id === column ? [index] : []))
  // a trend over branches that hold nothing has no copies; a column that nobody knows is a fault
  if (!at.length && !prepared.block.columns.some(each => each.id === column))
    fail(`The statement “${statement}” has no column “${column}” any more; choose another.`)
  return { laid, prepared, at }
}

function lineFigure(
  { statement, line, column }: TieFigure & { is: 'line' },
  blocks: readonly PreparedBlock[],
  composer: Composer,
): Decimal {
  const { laid, prepared, at } = standing(statement, column, blocks, composer)
  if (!prepared.block.lines.some(each => each.id === line))
    fail(`The statement “${statement}” has no line “${line}” any more; choose another.`)
  // a line that is left out because all is zero is zero
  const row = laid.shaped.rows.find(each => each.line.id === line && each.part === 'line')
  return at.reduce<Decimal>((sum, place) => add(sum, row?.exact[place] ?? zero), zero)
}

/** What all accounts of some types come to in a column: not by way of the statement's lines. */
function trialFigure(
  { statement, column, types }: TieFigure & { is: 'trial' },
  blocks: readonly PreparedBlock[],
  composer: Composer,
): Decimal {
  const { laid, at } = standing(statement, column, blocks, composer)
  const held = at.flatMap(place => columnsBehind(laid.columns[place]!, laid.columns))
  let sum = zero
  for (const each of held)
    laid.books.of({ column: each }).forEach((amount, place) => {
      if (types.includes(laid.books.accounts[place]!.nature as never)) sum = add(sum, amount)
    })
  return types.every(debitNatured) ? sum : negate(sum)
}
