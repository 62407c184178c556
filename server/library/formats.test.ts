import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import { textOf } from '../../core/plain/text'
import { askCompany, demoData, temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { RunOutput } from '../runs/output'
import { importLibrary } from './importing'

/** Reports as earlier programs have written them down, by their formats; what is stored is never changed. */
const stored = readdirSync('tests/formats').flatMap(format =>
  readdirSync(`tests/formats/${format}`).map(file => ({
    format: Number(format),
    name: file.replace('.json', ''),
    file: `tests/formats/${format}/${file}`,
  })),
)

let estante: Estante
const folder = temporaryFolder()
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

/** The text of a report's pages, and the answers that it takes: a month of the books that holds much. */
async function printed(definition: ReportDefinition): Promise<string> {
  const file = join(folder, 'printed.pdf')
  const months: Record<string, string> = { period: '2026-P06', month: '2026-09', asOf: '2026-09-30', until: '2026-10-31' }
  const answers = Object.fromEntries(definition.parameters.flatMap(({ name }) => (months[name] ? [[name, months[name]]] : [])))
  await estante.pool.run(tester, await estante.input(tester, 'Stored', definition, answers), { format: 'pdf', file } as RunOutput)
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8', maxBuffer: 1e8 })
}

it('there is an example of every format', () => {
  expect([...new Set(stored.map(each => each.format))].sort()).toEqual(Array.from({ length: formatVersion }, (_, at) => at + 1))
})

describe.each(stored)('$name of format $format', ({ format, name, file }) => {
  const text = readFileSync(file, 'utf8')
  const old = JSON.parse(text) as { format: number; layouts: { blocks: unknown[] }[] }

  it('is read, prints its titles and the figures of the tables', async () => {
    expect(old.format).toBe(format)
    const definition = await estante.planner.parse(tester, text)
    expect(definition.format).toBe(formatVersion)
    const pages = await printed(definition)
    // format 1 had the titles of a table with its columns
    const titles = [...text.matchAll(/"title": "([A-Z][^"{]*)"/g)].map(match => match[1]!)
    expect(titles.filter(title => !title.split(' ').every(word => pages.includes(word)))).toEqual([])
    if (format === 1) expect(titles.length).toBeGreaterThan(3)
    if (!/invoice|register/i.test(name)) return
    const { columns, count } = await askCompany(estante, {
      text: `select number from company.invoices where kind = 'invoice' and invoice_date between '2026-09-01' and '2026-09-30'`,
      values: [],
      columns: [{ path: 'number', type: 'text' }],
    })
    const numbers = Array.from({ length: count }, (_, row) => (columns[0] as unknown as { values: string[] }).values[row]!)
    expect(numbers.filter(number => !pages.includes(number))).toEqual([])
  })

  it('comes into the library from a folder, as it is read', async () => {
    const own = `${name} of format ${format}`
    const files = new Map([[`reports/Old/${own}.yaml`, textOf({ name: own, published: false, definition: old })]])
    expect((await importLibrary(tester, estante, files)).created).toEqual([own])
    const found = (await estante.store.library(tester)).flatMap(shelf => shelf.reports).find(each => each.name === own)!
    expect((await estante.store.report(tester, found.id)).definition).toEqual(await estante.planner.parse(tester, text))
    // once more it is the same, whichever format it is written in
    expect((await importLibrary(tester, estante, files)).changed).toEqual([])
  })
})
