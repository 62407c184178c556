// Writes rows as CSV out of chunks of records, as a run does, then the same cells with csv-stringify alone.
import { createWriteStream } from 'node:fs'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { stringify } from 'csv-stringify'
import { levelTree } from '../core/model/levels'
import type { Column } from '../core/value/columns'
import type { DataRecords } from '../core/value/records'
import { CsvRows } from '../server/runs/formats/rows'
import { level } from '../demo/reports/invoice'

const [, , out, wanted] = process.argv as string[] as [string, string, string, string]
const count = Number(wanted)
const size = 5000
const names = ['number', 'name', 'date', 'quantity', 'amount']
const types = { number: 'text', name: 'text', date: 'date', quantity: 'number', amount: 'number' } as const
const info = levelTree(
  { name: 'main', source: '', fields: {}, root: level('line', 'lines', { fields: names }) },
  {
    tables: [
      {
        schema: '',
        name: 'lines',
        primaryKey: ['number'],
        rowEstimate: 0,
        columns: names.map(name => ({
          name,
          type: types[name as 'date'],
          databaseType: 'text',
          required: true,
          ...((types[name as 'date'] as string) === 'number' ? { scale: name === 'amount' ? 2 : 3 } : {}),
        })),
      },
    ],
    foreignKeys: [],
  },
).levels[0]!

/** A chunk of records as the reader gives it: columns, not objects. */
function chunk(from: number): DataRecords {
  const text = (of: (row: number) => string): Column => ({ kind: 'text', values: Array.from({ length: size }, (_, row) => of(from + row)) })
  const figures = (scale: number, of: (row: number) => number): Column => ({
    kind: 'number',
    scale,
    values: Float64Array.from({ length: size }, (_, row) => of(from + row)),
  })
  return {
    levels: [
      {
        count: size,
        starts: Int32Array.of(0, size),
        columns: {
          number: text(row => `INV-${10000 + row}`),
          name: text(row => (row % 9 ? `Braided rope, ${row % 24} mm, navy` : 'A "quoted", name')),
          date: { kind: 'date', values: Float64Array.from({ length: size }, (_, row) => 20000 + ((from + row) % 900)) } as Column,
          quantity: figures(3, row => (row * 250) % 900000),
          amount: figures(2, row => (row * 37) % 9999999),
        },
      },
    ],
  }
}

const heap = { early: 0, late: 0 }
async function ours(): Promise<number> {
  const file = createWriteStream(join(out, 'ours.csv'))
  let took = 0
  const writer = new CsvRows(file, info)
  for (let from = 0; from < count; from += size) {
    const data = chunk(from)
    const began = performance.now()
    await writer.add(data)
    took += performance.now() - began
    for (const [name, share] of [
      ['early', 0.1],
      ['late', 0.9],
    ] as const) {
      if (from === Math.round((count * share) / size) * size) {
        global.gc!()
        heap[name] = process.memoryUsage().heapUsed
      }
    }
  }
  const began = performance.now()
  await writer.end()
  file.end()
  await finished(file)
  return took + performance.now() - began
}

async function bare(): Promise<number> {
  const file = createWriteStream(join(out, 'bare.csv'))
  let took = 0
  const lines = stringify({ record_delimiter: '\r\n' })
  lines.pipe(file)
  for (let from = 0; from < count; from += size) {
    const rows = Array.from({ length: size }, (_, row) => [
      `INV-${10000 + from + row}`,
      (from + row) % 9 ? `Braided rope, ${(from + row) % 24} mm, navy` : 'A "quoted", name',
      '2024-10-05',
      ((((from + row) * 250) % 900000) / 1000).toFixed(3),
      ((((from + row) * 37) % 9999999) / 100).toFixed(2),
    ])
    const began = performance.now()
    for (const row of rows) if (!lines.write(row)) await new Promise(resolve => lines.once('drain', resolve))
    took += performance.now() - began
  }
  const began = performance.now()
  lines.end()
  await finished(file)
  return took + performance.now() - began
}

const own = await ours()
const other = await bare()
console.log(JSON.stringify({ rows: count, ours: own, bare: other, ...heap }))
