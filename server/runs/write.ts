import { mkdtemp, rm } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { finished } from 'node:stream/promises'
import { wholeLayout } from '../../core/api/outputs'
import type { GridEvent } from '../../core/compose/gridRows'
import { RunError } from './input'
import type { ReadyRun } from './ready'
import type { LevelInfo } from '../../core/formula/typed'
import { outFile } from './outFile'
import type { RunOutput } from './output'
import { RunMeter } from './meter'
import type { Fetch } from '../../core/read/read'
import { kindOf } from '../../core/compose/blocks/registry'
import type { PreparedBlock } from '../../core/compose/prepared'
import { CsvCells, CsvPrinted, JsonCells } from './formats/cells'
import { CsvRows, JsonLevel, JsonRows } from './formats/rows'
import { CsvwRows } from './formats/csvw'
import { type NumberShape, NumberShapes, NumberTooWide, ParquetRows } from './formats/parquet'
import type { DataRecords } from '../../core/value/records'
import { XmlRows } from './formats/xml'
import { ZipFile } from './zipFile'
import { chunksOf, planRun, runGrid } from './execute'
import { dateFormat } from '../../core/value/dateFormat'
import { XlsxWriter } from './formats/xlsx'
import { gridDepth } from '../../core/compose/grid'
import { answerWords } from '../../core/parameter/answers'

export async function writeAll(file: string, text: string): Promise<void> {
  const out = outFile(file)
  out.end(text)
  await finished(out)
}

export async function addAll(
  writer: { add: (event: GridEvent) => Promise<void> | undefined },
  events: readonly GridEvent[],
): Promise<void> {
  for (const event of events) {
    const room = writer.add(event)
    if (room) await room
  }
}

/** The level that is asked for by its name. @throws RunError */
function levelNamed(ready: ReadyRun, name: string): LevelInfo {
  const { levels } = ready.report.tree
  const level = levels.find(each => each.name === name)
  if (!level) throw new RunError([`There is no level “${name}”; there are ${levels.map(each => each.name).join(', ')}.`])
  return level
}

/** The rows of a level as Parquet; where a number does not fit as it was promised, all are looked at first, and written then. */
export async function parquetTo(
  ready: ReadyRun,
  output: RunOutput & { format: 'parquet' },
  meter: RunMeter,
  fetch: Fetch,
  written: Written,
): Promise<void> {
  const level = levelNamed(ready, output.level)
  const each = async (counted: RunMeter, take: (data: DataRecords) => void): Promise<void> => {
    for await (const chunk of counted.chunks(ready, planRun(ready, 'rows'), fetch, chunksOf(ready, 'rows')))
      await written(() => take(chunk.records))
  }
  const write = async (shapes?: ReadonlyMap<string, NumberShape>): Promise<void> => {
    const rows = new ParquetRows(output.file, level, shapes)
    await each(shapes ? new RunMeter() : meter, data => rows.add(data))
    await written(() => rows.end())
  }
  try {
    await write()
  } catch (error) {
    if (!(error instanceof NumberTooWide)) throw error
    const shapes = new NumberShapes(level)
    await each(new RunMeter(), data => shapes.add(data))
    await write(shapes.checked())
  }
}

/** All levels as CSV on the Web, in a ZIP with their description. */
export async function csvwTo(ready: ReadyRun, { file }: { file: string }, meter: RunMeter, fetch: Fetch, written: Written): Promise<void> {
  const folder = await mkdtemp(join(dirname(file), 'csvw-'))
  try {
    const rows = new CsvwRows(folder, ready.report.tree.levels, ready.name, ready.definition.language)
    for await (const chunk of meter.chunks(ready, planRun(ready, 'rows'), fetch, chunksOf(ready, 'rows')))
      await written(() => rows.add(chunk.records))
    await written(async () => {
      const { description, files } = await rows.end()
      const zip = new ZipFile(file)
      await zip.add('csv-metadata.json', new TextEncoder().encode(description), false)
      for (const { name, path } of files) await zip.addFile(name, path)
      await zip.end()
    })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

type Written = (work: () => unknown) => Promise<void>

export async function rowsTo(
  ready: ReadyRun,
  output: Extract<RunOutput, { format: 'json' | 'csv' }> | { format: 'xml'; file: string },
  meter: RunMeter,
  fetch: Fetch,
  written: Written,
): Promise<void> {
  const { levels } = ready.report.tree
  if ('crosstab' in output || 'printed' in output) return cellsTo(ready, output, meter, fetch, written)
  const level = 'level' in output && output.level !== undefined ? levelNamed(ready, output.level) : undefined
  const out = outFile(output.file)
  const writer =
    output.format === 'csv'
      ? new CsvRows(out, level!, output)
      : output.format === 'xml'
        ? new XmlRows(out, levels, ready.name)
        : level
          ? new JsonLevel(out, level)
          : new JsonRows(out, levels)
  for await (const chunk of meter.chunks(ready, planRun(ready, 'rows'), fetch, chunksOf(ready, 'rows')))
    await written(() => writer.add(chunk.records))
  await written(async () => {
    await writer.end()
    out.end()
    await finished(out)
  })
}

/** What a layout prints as it is printed, or the cells of a crosstab on it. @throws RunError where there is no such block */
async function cellsTo(
  ready: ReadyRun,
  output: RunOutput & ({ format: 'csv' } | { format: 'json' }),
  meter: RunMeter,
  fetch: Fetch,
  written: Written,
): Promise<void> {
  const { layout } = ready.report
  const ids = (list: readonly PreparedBlock[], named: (block: PreparedBlock) => boolean): string[] =>
    list.flatMap(block => [
      ...(named(block) ? [(block as unknown as { block: { id: string } }).block.id] : []),
      ...ids(block.inner ?? [], named),
    ])
  if ('crosstab' in output) {
    const found = ids(layout.blocks, block => kindOf(block).cellByCell === true)
    if (!found.includes(output.crosstab!))
      throw new RunError([
        found.length
          ? `There is no crosstab “${output.crosstab}” on the layout; there is ${found.join(', ')}.`
          : 'There is no crosstab on the layout; choose the rows of a level.',
      ])
  }
  const one = 'printed' in output && output.printed !== wholeLayout ? output.printed : undefined
  if (one !== undefined && !ids(layout.blocks, () => true).includes(one))
    throw new RunError([`There is no block “${one}” on the layout; say ${wholeLayout} for all of it.`])
  const out = outFile(output.file)
  const { columns, events } = await runGrid(ready, fetch, meter, false, true)
  const writer =
    output.format === 'json'
      ? new JsonCells(out, output.crosstab!)
      : 'crosstab' in output
        ? new CsvCells(out, output.crosstab, output)
        : new CsvPrinted(out, columns.x.length, output, one)
  for await (const some of events) await written(() => addAll(writer, some))
  await written(async () => {
    await writer.end()
    out.end()
    await finished(out)
  })
}

/** A workbook of the layout's rows, as asked with the plain rows of a level, and with what was asked and answered. */
export async function workbookTo(
  ready: ReadyRun,
  output: RunOutput & { format: 'xlsx' },
  meter: RunMeter,
  fetch: Fetch,
  written: Written,
): Promise<void> {
  const { definition, report, parameters } = ready
  const rows = output.rows === undefined ? undefined : levelNamed(ready, output.rows)
  const out = outFile(output.file)
  const sheets = output.sheets ?? 'one'
  const { columns, events } = await runGrid(ready, fetch, meter, sheets === 'documents')
  const dated = dateFormat('d MMM y', definition.language)
  const time = new Intl.DateTimeFormat(definition.language, { dateStyle: 'long', timeStyle: 'short' }).format(ready.moment ?? Date.now())
  const book = new XlsxWriter(out, {
    title: ready.name,
    sheets,
    columns,
    depth: gridDepth(report.layout.blocks),
    page: report.layoutDefinition.page,
    facts: [
      ['Report', ready.name],
      ['Layout', report.layoutDefinition.name],
      ['Source', report.dataSet.source],
      ['Run at', time],
      ['Source’s clock', dated(ready.today)],
      ...definition.parameters
        .filter(parameter => !parameter.hidden)
        .map(parameter => [parameter.label, answerWords(parameter, parameters)] as const),
    ],
  })
  for await (const some of events) await written(() => addAll(book, some))
  if (rows) {
    const plan = planRun(ready, 'rows')
    await book.rows(
      rows,
      (async function* () {
        for await (const chunk of new RunMeter().chunks(ready, plan, fetch, chunksOf(ready, 'rows'))) yield chunk.records
      })(),
    )
  }
  await written(async () => {
    await book.end()
    if (!out.writableFinished) await finished(out)
  })
}
