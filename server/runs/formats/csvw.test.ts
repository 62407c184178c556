import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import Papa from 'papaparse'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ReportDefinition } from '../../../core/definition/report'
import { salesInvoice } from '../../../demo/reports/invoice'
import { demoData, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunOutput } from '../output'

interface Described {
  url: string
  tableSchema: {
    columns: { name: string; titles: string; datatype: string | { base: string } }[]
    primaryKey?: string[]
    foreignKeys?: { columnReference: string[]; reference: { resource: string; columnReference: string[] } }[]
  }
}

let estante: Estante
const folder = temporaryFolder()
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

let files = 0
const made = async (definition: ReportDefinition, output: Record<string, unknown>): Promise<string> => {
  const file = join(folder, `${++files}.out`)
  const input = await estante.input(tester, 'Sales “invoice”', definition, { month: '2026-09' })
  await estante.pool.run(tester, input, { ...output, file } as RunOutput)
  return file
}
/** What a column's type lets stand in it (XML Schema 1.1, part 2). */
const lexical: Record<string, RegExp> = {
  decimal: /^-?\d+(\.\d+)?$/,
  date: /^\d{4}-\d\d-\d\d$/,
  dateTime: /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?$/,
  boolean: /^(true|false)$/,
  string: /^/,
}

describe('CSV on the Web', () => {
  it('holds all levels, each value of the type that is said, keys that are keys, and children that have their parents', async () => {
    const zip = unzipSync(readFileSync(await made(salesInvoice(), { format: 'csvw' })))
    const all = JSON.parse(Buffer.from(zip['csv-metadata.json']!).toString()) as {
      '@context': unknown
      'dc:title': string
      tables: Described[]
    }
    expect([all['@context'], all['dc:title']]).toEqual([['http://www.w3.org/ns/csvw', { '@language': 'en-GB' }], 'Sales “invoice”'])
    expect(Object.keys(zip).sort()).toEqual(['csv-metadata.json', ...all.tables.map(each => each.url)].sort())
    const tables = new Map(
      all.tables.map(({ url, tableSchema }) => {
        const [head, ...rows] = Papa.parse<string[]>(Buffer.from(zip[url]!).toString(), { newline: '\r\n', skipEmptyLines: true }).data
        expect(head).toEqual(tableSchema.columns.map(each => each.titles))
        return [url, { tableSchema, rows }]
      }),
    )
    expect(tables.size).toBe(3)
    const at = (url: string, names: readonly string[]) => {
      const { tableSchema, rows } = tables.get(url)!
      const places = names.map(name => tableSchema.columns.findIndex(each => each.name === name))
      expect(places).not.toContain(-1)
      return rows.map(row => places.map(place => row[place]).join('\u0001'))
    }
    let led = 0
    for (const [url, { tableSchema, rows }] of tables) {
      expect(rows.length).toBeGreaterThan(50)
      for (const [place, { datatype, name }] of tableSchema.columns.entries()) {
        const base = typeof datatype === 'string' ? datatype : datatype.base
        const odd = rows.find(row => row[place] !== '' && !lexical[base]!.test(row[place]!))
        expect([url, name, odd]).toEqual([url, name, undefined])
      }
      const keys = at(url, tableSchema.primaryKey!)
      expect(new Set(keys).size).toBe(rows.length)
      for (const { columnReference, reference } of tableSchema.foreignKeys ?? []) {
        const parents = new Set(at(reference.resource, reference.columnReference))
        expect(at(url, columnReference).every(each => parents.has(each))).toBe(true)
        led++
      }
    }
    expect(led).toBe(2)
  })

  it('has the values of the plain CSV of each level', async () => {
    const report = salesInvoice()
    const zip = unzipSync(readFileSync(await made(report, { format: 'csvw' })))
    for (const level of ['invoice', 'lines', 'taxes']) {
      const read = (bytes: Uint8Array) =>
        Papa.parse<Record<string, string>>(Buffer.from(bytes).toString(), { header: true, skipEmptyLines: true }).data
      const plain = read(readFileSync(await made(report, { format: 'csv', level })))
      const own = read(zip[`${level}.csv`]!)
      expect(own.length).toBe(plain.length)
      expect(own.map(row => Object.fromEntries(Object.keys(plain[0]!).map(name => [name, row[name]])))).toEqual(plain)
    }
  })

  it('names columns so that they may stand in a template of an address', async () => {
    const { dataSets } = salesInvoice()
    const root = { ...dataSets[0]!.root, calculated: [{ name: 'größe', formula: '1' }] }
    const report = { ...salesInvoice(), dataSets: [{ ...dataSets[0]!, root }, ...dataSets.slice(1)] }
    const zip = unzipSync(readFileSync(await made(report, { format: 'csvw' })))
    const { tables } = JSON.parse(Buffer.from(zip['csv-metadata.json']!).toString()) as { tables: Described[] }
    const names = tables.flatMap(each => each.tableSchema.columns.map(column => column.name))
    // RFC 6570, varname
    expect(names.filter(name => !/^(?:[A-Za-z0-9_]|%[0-9A-F]{2})(?:\.?(?:[A-Za-z0-9_]|%[0-9A-F]{2}))*$/.test(name))).toEqual([])
    expect(names).toContain('gr%C3%B6%C3%9Fe')
  })
})
