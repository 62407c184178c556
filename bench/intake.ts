import { spawnSync } from 'node:child_process'
import { createWriteStream, existsSync, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { once } from 'node:events'
import ExcelJS from 'exceljs'
import { median, ms, note, root, scale } from './harness'

const towns = ['Setúbal', 'Aveiro', 'Nordvåg', 'Brest', 'Porto, Leça', 'Vigo']
/** A row of twelve cells, as an order of a supplier to ships has them. */
function row(at: number): string[] {
  const day = new Date(Date.UTC(2024, 0, 1 + (at % 900))).toISOString().slice(0, 10)
  return [
    `O-${100000 + at}`,
    String((at * 7919) % 50_000),
    day,
    `${day} ${String(at % 24).padStart(2, '0')}:${String(at % 60).padStart(2, '0')}:00`,
    towns[at % towns.length]!,
    `Braided rope, ${at % 24} mm, ${at % 3 ? 'navy' : 'white "signal"'}`,
    (((at * 250) % 900_000) / 1000).toFixed(3),
    (((at * 37) % 9_999_999) / 100).toFixed(2),
    ((at % 400) / 10 - 5).toFixed(1),
    at % 2 ? 'yes' : 'no',
    at % 11 ? `C${String(at % 997).padStart(4, '0')}` : '',
    String(at % 5),
  ]
}
const titles = ['Order', 'Customer', 'Day', 'Booked', 'Town', 'Description', 'Quantity', 'Amount', 'Discount', 'Paid', 'Code', 'Class']
const columns =
  'o text, customer integer, day date, booked timestamp, town text, description text, quantity numeric(6,3), amount numeric(7,2), ' +
  'discount numeric(3,1), paid boolean, code text, class integer'

async function written(path: string, rows: number, line: (cells: string[]) => string, head = ''): Promise<void> {
  const out = createWriteStream(path)
  if (head) out.write(head)
  for (let from = 0; from < rows; from += 2000) {
    let text = ''
    for (let at = from; at < Math.min(rows, from + 2000); at++) text += line(row(at))
    if (!out.write(text)) await once(out, 'drain')
  }
  out.end()
  await once(out, 'finish')
}
const quoted = (cell: string) => (/[",\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)
const asCopy = (cells: string[]) => `${cells.map((cell, at) => (at === 9 ? cell[0]! : cell === '' ? '\\N' : cell)).join('\t')}\n`

interface Found {
  ms: number
  rows: number
  memory: number
}
function child(task: string, path: string, folder: string): Found {
  const { stdout } = spawnSync(process.execPath, [join(root, '.build/bench/intake.worker.mjs'), task, path, folder, columns], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'inherit'],
    env: process.env,
  })
  return JSON.parse(stdout.trim().split('\n').at(-1)!) as Found
}

/** Files that become tables: a million rows of separated values against COPY of the prepared text, and a workbook against its reading. */
export async function intake(): Promise<void> {
  const folder = join(root, '.build', 'bench-intake')
  mkdirSync(folder, { recursive: true })
  const rows = scale >= 40 ? 1_000_000 : 100_000
  const [csv, copied, sheet] = [`rows-${rows}.csv`, `rows-${rows}.copy`, `rows-${rows / 10}.xlsx`].map(name => join(folder, name)) as [
    string,
    string,
    string,
  ]
  if (!existsSync(csv)) await written(csv, rows, cells => `${cells.map(quoted).join(',')}\n`, `${titles.join(',')}\n`)
  if (!existsSync(copied)) await written(copied, rows, asCopy)
  if (!existsSync(sheet)) await workbook(sheet, rows / 10)
  const rounds = async (ours: [string, string], bare: [string, string]) => {
    const found: { ours: Found; bare: Found }[] = []
    for (let round = 0; round < 3; round++) {
      for (const each of ['own', 'bare']) rmSync(join(folder, each), { recursive: true, force: true })
      const each = { ours: child(...ours, folder), bare: child(...bare, folder) }
      console.log(`  ours ${ms(each.ours.ms)}, bare ${ms(each.bare.ms)}`)
      found.push(each)
    }
    return { found, ratio: median(found.map(each => each.ours.ms / each.bare.ms)) }
  }
  const text = await rounds(['ours', csv], ['copy', copied])
  note(
    `a CSV file of ${rows.toLocaleString('en')} × 12 taken in`,
    `${text.ratio.toFixed(2)} × COPY of the prepared text (${ms(median(text.found.map(each => each.ours.ms)))})`,
    '≤ 1.6 ×',
    text.ratio <= 1.6,
  )
  const beside = median(text.found.map(each => each.ours.memory - each.bare.memory)) / 1e6
  note('memory of it beside the engine', `${Math.round(beside)} MB`, '≤ 300 MB', beside <= 300)
  const book = await rounds(['ours', sheet], ['library', sheet])
  note(
    `a workbook of ${(rows / 10).toLocaleString('en')} × 12 taken in`,
    `${book.ratio.toFixed(2)} × read-excel-file reading it (${ms(median(book.found.map(each => each.ours.ms)))})`,
    '≤ 1.5 ×',
    book.ratio <= 1.5,
  )
}

async function workbook(path: string, rows: number): Promise<void> {
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ filename: path, useStyles: true, useSharedStrings: true })
  const sheet = book.addWorksheet('Orders')
  sheet.addRow(titles).commit()
  for (let at = 0; at < rows; at++) {
    const cells = row(at)
    const own = sheet.addRow([
      cells[0],
      Number(cells[1]),
      new Date(`${cells[2]}T00:00:00Z`),
      new Date(`${cells[3]!.replace(' ', 'T')}Z`),
      ...cells.slice(4, 6),
      ...cells.slice(6, 9).map(Number),
      cells[9] === 'yes',
      cells[10] || null,
      Number(cells[11]),
    ])
    own.getCell(3).numFmt = 'yyyy-mm-dd'
    own.getCell(4).numFmt = 'yyyy-mm-dd hh:mm'
    own.commit()
  }
  sheet.commit()
  await book.commit()
}
