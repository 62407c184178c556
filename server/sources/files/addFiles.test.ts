import { ownContext } from '../../access/context'
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { stringify } from 'csv-stringify/sync'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findTable } from '../../../core/catalog/types'
import { listOfTable } from '../../../core/templates/draft'
import { decimalText } from '../../../core/value/decimal'
import { dayText } from '../../../core/value/date'
import { valueAt } from '../../../core/value/columns'
import type { Value } from '../../../core/value/value'
import { sourceId } from '../../../demo/source'
import { demoData, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import { StoreError } from '../../store/records'

let estante: Estante
let data: string
beforeAll(async () => {
  data = demoData()
  estante = await openEstante({ folder: data })
}, 60_000)
afterAll(() => estante?.close())

const folder = () => mkdtempSync(join(temporaryFolder(), 'files-'))
const file = (name: string, text: string | Uint8Array) => {
  const path = join(folder(), name)
  writeFileSync(path, text)
  return { path, name }
}
const shown = (value: Value) =>
  value === null ? null : typeof value === 'object' ? decimalText(value) : typeof value === 'number' ? dayText(value) : value
/** All rows of a table of a source, through the source itself. */
async function rowsOf(source: string, table: string): Promise<unknown[][]> {
  const { catalog } = await estante.sources.catalog(ownContext, source)
  const { columns, schema } = findTable(catalog, table)!
  const quoted = columns.map(each => `"${each.name}"`).join(', ')
  const found = await estante.sources.reading(tester, source, snapshot =>
    snapshot.query({
      text: `select ${quoted} from "${schema}"."${table}" order by 1`,
      values: [],
      columns: columns.map(each => ({ path: each.name, type: each.type, ...(each.scale === undefined ? {} : { scale: each.scale }) })),
    }),
  )
  return Array.from({ length: found.count }, (_, row) => found.columns.map(column => shown(valueAt(column, row))))
}

describe('a source of files', () => {
  it('has the tables that the files hold, value by value, and stays after a restart', async () => {
    const customers = [
      ['Code', 'Customer name', 'Since', 'Limit', 'Active'],
      ['C-01', 'Cais, Lda', '2021-03-31', '1,250.50', 'yes'],
      ['C-02', 'Brise "Marine"', '', '-7', 'no'],
      ['C-03', 'Öresund\nTrade', '2024-02-29', 'n/a', ''],
    ]
    const orders = [
      ['Order', 'Customer code', 'Day', 'Total'],
      ...Array.from({ length: 2500 }, (_, at) => [
        String(at + 1),
        `C-0${(at % 3) + 1}`,
        `${String((at % 28) + 1).padStart(2, '0')}.03.2026`,
        `${at},${String(at % 100).padStart(2, '0')}`,
      ]),
    ]
    const { id, tables } = await estante.addFiles(tester, 'Books', [
      file('customers.csv', `\ufeff${stringify(customers)}`),
      file('Orders 2026.csv', stringify(orders, { delimiter: ';' })),
    ])
    expect(tables.map(({ name, rows, key, problems }) => ({ name, rows, key, problems }))).toEqual([
      { name: 'customers', rows: 3, key: ['code'], problems: [] },
      { name: 'orders_2026', rows: 2500, key: ['order'], problems: [] },
    ])
    expect(await rowsOf(id, 'customers')).toEqual([
      ['C-01', 'Cais, Lda', '2021-03-31', '1250.50', true],
      ['C-02', 'Brise "Marine"', null, '-7.00', false],
      ['C-03', 'Öresund\nTrade', '2024-02-29', null, null],
    ])
    const found = await rowsOf(id, 'orders_2026')
    // the same by a loop over what was written
    expect(found).toEqual(
      orders
        .slice(1)
        .map(([order, customer, day, total]) => [order, customer, day!.split('.').reverse().join('-'), total!.replace(',', '.')]),
    )
    await estante.close()
    estante = await openEstante({ folder: data })
    expect(estante.sources.list().map(each => each.name)).toContain('Books')
    expect((await rowsOf(id, 'customers')).length).toBe(3)
    // a report on it runs like any other
    const { catalog } = await estante.sources.catalog(ownContext, id)
    const report = listOfTable(catalog, 'orders_2026', id, 'Orders')
    const page = await estante.pool.firstPage(tester, await estante.input(tester, 'Orders', report, {}))
    const text = page!.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))
    expect(text).toContain('C-03')
  }, 120_000)

  it('written in Windows-1252 or UTF-16 is read as it is written', async () => {
    const text = 'name,price\nCafé – 5 €,1.50\nØl,2.00\n'
    const latin = Uint8Array.from(text, char => ({ '€': 0x80, '–': 0x96 })[char] ?? char.charCodeAt(0))
    const wide = Buffer.from(`\ufeff${text}`, 'utf16le')
    const { id } = await estante.addFiles(tester, 'Encodings', [file('latin.csv', latin), file('wide.csv', wide)])
    const wanted = [
      ['Café – 5 €', '1.50'],
      ['Øl', '2.00'],
    ]
    expect(await rowsOf(id, 'latin')).toEqual(wanted)
    expect(await rowsOf(id, 'wide')).toEqual(wanted)
  }, 60_000)

  it('that cannot be taken in is told in one sentence with its place, and leaves nothing behind', async () => {
    const before = readdirSync(join(data, 'sources'))
    const refused = async (name: string, files: { path: string; name: string; forms?: Record<string, never> }[]) =>
      estante.addFiles(tester, name, files).then(
        () => 'taken',
        (error: unknown) => (error instanceof StoreError ? error.message : `no sentence: ${String(error)}`),
      )
    expect(await refused('Open quote', [file('bad.csv', 'a,b\n1,"2\n')])).toBe(
      '“bad.csv” cannot be read: A quote that opens on line 2 is never closed; close it there, or double it where it belongs to the text.',
    )
    expect(await refused('Long row', [file('good.csv', 'a,b\n1,2\n'), file('long.csv', 'a,b\n1,2\n3,4,5\n6,7\n')])).toBe(
      'Line 3 of “long.csv” has 3 cells where there are 2 columns; put text that holds the separator into quotes.',
    )
    expect(
      await refused('Said wrong', [{ ...file('said.csv', 'a,b\n1,x\n2,7\n'), forms: { b: { type: 'number', decimal: '.' } as never } }]),
    ).toBe('“x” on line 2 of “said.csv” does not fit the column “b”; correct it in the file, or take the column as text.')
    expect(await refused('Empty', [file('empty.csv', '')])).toBe('“empty.csv” holds no rows; choose a file with a table in it.')
    expect(await refused('Cais Velho', [file('a.csv', 'a,b\n1,2\n')])).toBe('There is a source “Cais Velho” already; choose another name.')
    expect(readdirSync(join(data, 'sources'))).toEqual(before)
  }, 120_000)

  it('goes with its tables when it is put away, unless a report reads it; the demo stays', async () => {
    const { id } = await estante.addFiles(tester, 'For a day', [file('day.csv', 'code,total\nA,1\nB,2\n')])
    const { catalog } = await estante.sources.catalog(ownContext, id)
    const report = await estante.store.create(tester, 'Trial', 'Day list', listOfTable(catalog, 'day', id, 'Day list'), false)
    await expect(estante.putSourceAway(tester, id)).rejects.toThrow('“Day list” reads “For a day”; put that report away first.')
    expect(await rowsOf(id, 'day')).toEqual([
      ['A', '1'],
      ['B', '2'],
    ])
    await estante.store.remove(tester, report)
    await estante.putSourceAway(tester, id)
    expect(readdirSync(join(data, 'sources'))).not.toContain(id)
    expect(() => estante.sources.get(id)).toThrow(/is not here/)
    await expect(estante.putSourceAway(tester, sourceId)).rejects.toThrow('“Cais Velho” belongs to the program and cannot be put away.')
  }, 60_000)

  it('whose folder is gone is away with a sentence, and no empty source stands in its place', async () => {
    const { id } = await estante.addFiles(tester, 'Lost', [file('lost.csv', 'code,total\nA,1\n')])
    await estante.close()
    rmSync(join(data, 'sources', id), { recursive: true })
    estante = await openEstante({ folder: data })
    await expect(rowsOf(id, 'lost')).rejects.toThrow(/is gone; put a backup in its place, or put the source away/)
    expect(existsSync(join(data, 'sources', id))).toBe(false)
    await estante.putSourceAway(tester, id)
    expect(estante.sources.list().map(each => each.name)).not.toContain('Lost')
  }, 60_000)
})
