import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { tableFromIPC } from 'apache-arrow'
import fc from 'fast-check'
import { initSync, readParquet } from 'parquet-wasm/esm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LevelInfo } from '../../../core/formula/typed'
import { columnOf } from '../../../core/value/columns'
import { dayOf, dayText } from '../../../core/value/date'
import { type Decimal, decimal, decimalText, trim } from '../../../core/value/decimal'
import { momentText, parseMoment } from '../../../core/value/moment'
import type { DataRecords } from '../../../core/value/records'
import type { Value, ValueType } from '../../../core/value/value'
import type { ReportDefinition } from '../../../core/definition/report'
import { salesInvoice } from '../../../demo/reports/invoice'
import { demoData, temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunOutput } from '../output'
import { NumberShapes, NumberTooWide, ParquetRows } from './parquet'

initSync({ module: readFileSync(createRequire(import.meta.url).resolve('parquet-wasm/esm/parquet_wasm_bg.wasm')) })
const folder = temporaryFolder()

/** A whole number of 128 bits, as Arrow keeps decimals: its words, the lowest first. */
function wholeOf(words: Uint32Array): bigint {
  const found = [...words].reduceRight((sum, word) => (sum << 32n) + BigInt(word), 0n)
  return BigInt.asIntN(words.length * 32, found)
}

/** The rows of a Parquet file as texts, as Arrow's reader has them. */
function read(file: string): Record<string, string | null>[] {
  const table = tableFromIPC(readParquet(readFileSync(file)).intoIPCStream())
  return table.toArray().map(row =>
    Object.fromEntries(
      table.schema.fields.map(field => {
        const value = (row as Record<string, unknown>)[field.name]
        const type = String(field.type)
        if (value === null) return [field.name, null]
        if (type.startsWith('Decimal')) {
          const { scale } = field.type as unknown as { scale: number }
          return [field.name, decimalText(trim({ units: wholeOf(value as Uint32Array), scale } as unknown as Decimal))]
        }
        if (type.startsWith('Date')) return [field.name, new Date(Number(value)).toISOString().slice(0, 10)]
        return [field.name, String(value)]
      }),
    ),
  )
}

/** A level of columns, and its records. */
function levelOf(columns: Record<string, [ValueType, Value[], number?]>): { level: LevelInfo; data: DataRecords } {
  const paths = Object.keys(columns)
  const fields = new Map(paths.map(path => [path, { path, type: columns[path]![0], scale: columns[path]![2] }]))
  const definition = { name: 'rows', table: 'rows', on: [], fields: paths, related: [], details: [], filters: [], sort: [] }
  const level = { index: 0, parent: -1, children: [], name: 'rows', caption: 'Rows', definition, key: [], fields } as unknown as LevelInfo
  const count = columns[paths[0]!]![1].length
  const built = Object.fromEntries(paths.map(path => [path, columnOf(columns[path]![0], columns[path]![1])]))
  return { level, data: { levels: [{ count, columns: built, starts: new Int32Array(0) }] } as unknown as DataRecords }
}

let files = 0
/** Writes as a run does: once, and again with the shapes that were found where a number does not fit. */
function write(level: LevelInfo, data: DataRecords): string {
  const file = join(folder, `${++files}.parquet`)
  const once = (shapes?: ConstructorParameters<typeof ParquetRows>[2]) => {
    const rows = new ParquetRows(file, level, shapes)
    rows.add(data)
    rows.end()
  }
  try {
    once()
  } catch (error) {
    if (!(error instanceof NumberTooWide)) throw error
    const shapes = new NumberShapes(level)
    shapes.add(data)
    once(shapes.checked())
  }
  return file
}
const text = (value: Value): string | null =>
  value === null
    ? null
    : typeof value === 'object'
      ? decimalText(trim(value))
      : typeof value === 'number'
        ? dayText(value)
        : typeof value === 'bigint'
          ? momentText(value, 'T')
          : String(value)

describe('Parquet, as Arrow reads it', () => {
  it('has every value of every type exactly, whatever scales numbers come in', () => {
    const number = fc.tuple(fc.bigInt({ min: -(10n ** 20n), max: 10n ** 20n }), fc.integer({ min: 0, max: 15 }))
    const value = fc.record({
      number: fc.option(number, { nil: null }),
      word: fc.option(
        fc.string({ unit: 'binary' }).filter(each => each.isWellFormed()),
        { nil: null },
      ),
      day: fc.option(fc.integer({ min: dayOf(1, 1, 1), max: dayOf(9999, 12, 31) }), { nil: null }),
      yes: fc.option(fc.boolean(), { nil: null }),
    })
    fc.assert(
      fc.property(fc.array(value, { minLength: 1, maxLength: 30 }), fc.integer({ min: 0, max: 4 }), (list, promised) => {
        const numbers = list.map(({ number: each }) => each && trim({ units: each[0], scale: each[1] } as unknown as Decimal))
        const { level, data } = levelOf({
          amount: ['number', numbers, promised],
          'item.name': ['text', list.map(each => each.word)],
          day: ['date', list.map(each => each.day)],
          yes: ['boolean', list.map(each => each.yes)],
        })
        expect(read(write(level, data))).toEqual(
          list.map((each, at) => ({ amount: text(numbers[at]!), 'item.name': each.word, day: text(each.day), yes: text(each.yes) })),
        )
      }),
      { numRuns: 60 },
    )
  })

  it('has moments to the microsecond, on a clock without a zone', () => {
    const moments = ['0001-01-01 00:00:00', '1969-12-31 23:59:59.999999', '2026-03-29 01:30:00.000001', '9999-12-31 23:59:59.5']
    const { level, data } = levelOf({ at: ['moment', moments.map(each => parseMoment(each)!)] })
    const table = tableFromIPC(readParquet(readFileSync(write(level, data))).intoIPCStream())
    expect(String(table.schema.fields[0]!.type)).toBe('Timestamp<MICROSECOND>')
    // Arrow's own values are milliseconds: its words are looked at instead
    const words = table.getChildAt(0)!.data[0]!.values as BigInt64Array
    expect([...words].map(each => momentText(each))).toEqual(moments.map(each => momentText(parseMoment(each)!)))
  })

  it('refuses numbers that no decimal of it holds', () => {
    const { level, data } = levelOf({ amount: ['number', [decimal(1, 0), { units: 10n ** 38n, scale: 0 } as unknown as Decimal]] })
    expect(() => write(level, data)).toThrow(/“amount” needs 39 digits, and numbers in Parquet have 38 at most/)
  })
})

describe('the rows of a run', () => {
  let estante: Estante
  beforeAll(async () => {
    estante = await openEstante({ folder: demoData() })
  })
  afterAll(() => estante.close())
  const made = async (definition: ReportDefinition, output: Record<string, unknown>): Promise<string> => {
    const file = join(folder, `${++files}.out`)
    await estante.pool.run(tester, await estante.input(tester, 'Sales invoice', definition, { month: '2026-09' }), {
      ...output,
      file,
    } as RunOutput)
    return file
  }

  it.each(['invoice', 'lines'])('are those of JSON, level %s', async level => {
    const report = salesInvoice()
    const json = readFileSync(await made(report, { format: 'json', level }), 'utf8')
    // numbers as they are written, not as JavaScript would have them
    const expected = JSON.parse(json.replace(/:(-?\d+(?:\.\d+)?)(?=[,}])/g, ':"$1"')) as Record<string, string | null>[]
    const found = read(await made(report, { format: 'parquet', level }))
    expect(found.length).toBeGreaterThan(50)
    const plain = (value: unknown) =>
      value === null ? null : typeof value === 'string' && /^-?\d+\.\d+$/.test(value) ? value.replace(/\.?0+$/, '') : String(value)
    const tidy = (list: Record<string, unknown>[]) =>
      list.map(row => Object.fromEntries(Object.entries(row).map(([name, value]) => [name, plain(value)])))
    expect(tidy(found)).toEqual(tidy(expected))
  })
})
