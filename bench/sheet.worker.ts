import { tester, askCompany } from './support'
// Writes lines in three levels of groups to a workbook as a server's run does it, then streams the same cells with the writer library
// alone.
// A first process (“read”) fetches the records, so that the memory measured is not that of the database that comes with the program.
import { createWriteStream, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { deserialize, serialize } from 'node:v8'
import type ExcelJS from 'exceljs'
import type { GridEvent } from '../core/compose/gridRows'
import { GridMaker } from '../core/compose/grid'
import { Composer } from '../core/compose/flow'
import { LiveTotals } from '../core/compose/liveTotals'
import { readRecords } from '../core/read/read'
import type { DataRecords } from '../core/value/records'
import { toNumber } from '../core/value/decimal'
import { openEstante } from '../server/estante'
import { planRun } from '../server/runs/execute'
import { readyRun } from '../server/runs/ready'
import { columnLetter, XlsxWriter } from '../server/runs/formats/xlsx'
import { groupedLines } from './groups'

const [, , task, folder, out, wanted] = process.argv as [string, string, 'read' | 'write', string, string, string]
const kept = join(out, 'lines.records')
if (task === 'read') {
  const estante = await openEstante({ folder })
  const input = await estante.input(tester, 'Lines', groupedLines(Number(wanted)), {})
  let records: DataRecords | undefined
  for await (const chunk of readRecords(planRun(readyRun(input), 'pages'), query => askCompany(estante, query), {
    chunk: Number.MAX_SAFE_INTEGER,
  }))
    records = chunk.records
  writeFileSync(kept, serialize({ input, records }))
  await estante.close()
  process.exit(0)
}
const { input, records: data } = deserialize(readFileSync(kept)) as { input: Parameters<typeof readyRun>[0]; records: DataRecords }
const ready = readyRun(input)
let peak = 0
const composer = () =>
  new Composer(ready.report.layout, {
    levels: ready.report.tree.levels,
    parameters: ready.parameters,
    today: ready.today,
    calendar: ready.catalog.calendar!,
  })

async function ours(): Promise<number> {
  const file = createWriteStream(join(out, 'ours.xlsx'))
  const maker = new GridMaker(composer())
  const began = performance.now()
  const writer = new XlsxWriter(file, {
    title: 'Lines',
    sheets: 'one',
    columns: maker.columns,
    depth: 4,
    page: ready.report.layoutDefinition.page,
    facts: [],
  })
  for (const event of maker.rows(data, 'first')) {
    const room = writer.add(event)
    if (room) await room
  }
  await writer.end()
  if (!file.writableFinished) await finished(file)
  return performance.now() - began
}

/** The rows alone, not written. */
async function making(): Promise<number> {
  const began = performance.now()
  const live = new LiveTotals()
  let count = 0
  for (const event of new GridMaker(composer()).rows(data, 'first')) if ('row' in event) live.row(event.row, ++count)
  return performance.now() - began
}

/** The cells as they are to be written, those that only carry a rule or fill among them, made before the time is taken. */
interface Bare {
  level: number
  cells: { place: number; value: string | number | { formula: string; result: number } | null; style: object }[]
}
function cellsOf(): Bare[] {
  const styles = new Map<string, object>()
  const live = new LiveTotals()
  const ruled = { border: { top: { style: 'thin' } } }
  const rows: Bare[] = []
  const maker = new GridMaker(composer())
  for (const event of maker.rows(data, 'first') as Generator<GridEvent>) {
    if (!('row' in event)) continue
    const { row } = event
    const totals = live.row(row, rows.length + 1)
    const empty =
      row.fill || row.above || row.below
        ? maker.columns.x
            .map((_, column) => ({ place: column + 1, value: null, style: ruled }))
            .filter(each => !row.cells.some(cell => cell.column + 1 === each.place))
        : []
    rows.push({
      level: row.depth,
      cells: [
        ...empty,
        ...row.cells.map(cell => {
          const value =
            cell.value === undefined || cell.value === null
              ? cell.text
              : typeof cell.value === 'object'
                ? toNumber(cell.value)
                : typeof cell.value === 'number'
                  ? cell.value + 25569
                  : String(cell.value)
          const total = totals.get(cell)
          const key = `${cell.style.font} ${cell.pattern}`
          if (!styles.has(key))
            styles.set(key, {
              font: { name: 'Arial', size: cell.style.size, bold: /Bold/.test(cell.style.font) },
              alignment: { horizontal: cell.style.align === 'centre' ? 'center' : cell.style.align },
              ...(cell.pattern ? { numFmt: cell.pattern } : {}),
            })
          return {
            place: cell.column + 1,
            value:
              total && 'from' in total
                ? {
                    formula: `SUBTOTAL(9,${columnLetter(total.column)}${total.from}:${columnLetter(total.column)}${total.to})`,
                    result: value as number,
                  }
                : value,
            style: styles.get(key)!,
          }
        }),
      ].sort((a, b) => a.place - b.place),
    })
  }
  return rows
}

async function bare(rows: readonly Bare[]): Promise<number> {
  const { stream } = createRequire(import.meta.url)('exceljs') as typeof ExcelJS
  const file = createWriteStream(join(out, 'bare.xlsx'))
  const began = performance.now()
  const book = new stream.xlsx.WorkbookWriter({
    stream: file as never,
    useStyles: true,
    useSharedStrings: false,
    zip: { zlib: { level: 1 } } as never,
  })
  const sheet = book.addWorksheet('Lines')
  for (const [index, row] of rows.entries()) {
    const line = sheet.getRow(index + 1)
    if (row.level) line.outlineLevel = row.level
    for (const cell of row.cells) {
      const place = line.getCell(cell.place)
      place.value = cell.value as ExcelJS.CellValue
      place.style = cell.style
    }
    line.commit()
    if (index % 500 === 0) await new Promise(resolve => setImmediate(resolve))
  }
  sheet.commit()
  await book.commit()
  if (!file.writableFinished) await finished(file)
  return performance.now() - began
}

// the first round of each warms up what both use; memory is that of the first of ours, which stands alone
global.gc!()
const before = process.memoryUsage().rss
peak = 0
const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 20)
await ours()
clearInterval(watch)
const rows = cellsOf()
await bare(rows)
global.gc!()
const own = await ours()
global.gc!()
const other = await bare(rows)
console.log(JSON.stringify({ rows: rows.length, ours: own, bare: other, peak, before, making: await making() }))
process.exit(0)
