import { PassThrough } from 'node:stream'
import { text } from 'node:stream/consumers'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CsvRows, JsonRows } from '../../../server/runs/formats/rows'
import type { Catalog } from '../../../core/books/catalog'
import type { LevelDefinition } from '../../../core/definition/levels'
import { decimal, type Decimal, decimalText } from '../../../core/value/decimal'
import { levelTree } from '../../../core/model/levels'
import { packLevel, rowsFromCsv, rowsFromJson, unpackLevel } from '../../../core/read/pinned'
import { columnOf, valueAt } from '../../../core/value/columns'
import type { DataRecords } from '../../../core/value/records'
import type { Value } from '../../../core/value/value'

const column = (name: string, type: 'number' | 'text' | 'date' | 'boolean') => ({
  name,
  type,
  databaseType: type,
  required: true,
  ...(type === 'number' ? { scale: name === 'id' || name === 'head_id' ? 0 : 2 } : {}),
})
const catalog: Catalog = {
  tables: [
    {
      schema: '',
      name: 'heads',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [
        column('id', 'number'),
        column('name', 'text'),
        column('day', 'date'),
        column('open', 'boolean'),
        column('total', 'number'),
      ],
    },
    {
      schema: '',
      name: 'lines',
      primaryKey: ['head_id', 'word'],
      rowEstimate: 0,
      columns: [column('head_id', 'number'), column('word', 'text'), column('amount', 'number')],
    },
  ],
  foreignKeys: [],
}
const plain: Omit<LevelDefinition, 'name' | 'table' | 'fields'> = { on: [], related: [], details: [], filters: [], sort: [] }
const root: LevelDefinition = {
  ...plain,
  name: 'head',
  table: 'heads',
  fields: ['id', 'name', 'day', 'open', 'total'],
  details: [{ ...plain, name: 'lines', table: 'lines', fields: ['head_id', 'word', 'amount'], on: [{ from: 'id', to: 'head_id' }] }],
}
const { levels } = levelTree({ name: 'x', source: 'x', fields: {}, root }, catalog)

const word = fc.string({ maxLength: 8, unit: 'grapheme' }).filter(each => !each.includes('\0'))
const money = fc.oneof(fc.maxSafeInteger(), fc.bigInt({ min: -(10n ** 24n), max: 10n ** 24n })).map(units => decimal(units, 2))
const heads = fc.array(
  fc.record({
    name: fc.option(word),
    day: fc.option(fc.integer({ min: 0, max: 40_000 })),
    open: fc.option(fc.boolean()),
    total: fc.option(money),
    lines: fc.array(fc.record({ word, amount: fc.option(money) }), { maxLength: 4 }),
  }),
  { maxLength: 6 },
)
function records(list: { name: Value; day: Value; open: Value; total: Value; lines: { word: string; amount: Value }[] }[]): DataRecords {
  const lines = list.flatMap((head, id) => head.lines.map(line => ({ ...line, id })))
  const starts = [0]
  for (const head of list) starts.push(starts.at(-1)! + head.lines.length)
  return {
    levels: [
      {
        count: list.length,
        starts: Int32Array.from([0, list.length]),
        columns: {
          id: columnOf(
            'number',
            list.map((_, id) => decimal(id, 0)),
          ),
          name: columnOf(
            'text',
            list.map(each => each.name),
          ),
          day: columnOf(
            'date',
            list.map(each => each.day),
          ),
          open: columnOf(
            'boolean',
            list.map(each => each.open),
          ),
          total: columnOf(
            'number',
            list.map(each => each.total),
          ),
        },
      },
      {
        count: lines.length,
        starts: Int32Array.from(starts),
        columns: {
          head_id: columnOf(
            'number',
            lines.map(line => decimal(line.id, 0)),
          ),
          word: columnOf(
            'text',
            lines.map(line => line.word),
          ),
          amount: columnOf(
            'number',
            lines.map(line => line.amount),
          ),
        },
      },
    ],
  }
}
const said = (data: DataRecords) =>
  data.levels.map(level => ({
    starts: Array.from(level.starts),
    rows: Array.from({ length: level.count }, (_, row) =>
      Object.fromEntries(
        Object.entries(level.columns)
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map(([path, held]) => {
            const value = valueAt(held, row)
            return [
              path,
              value !== null && typeof value === 'object'
                ? decimalText(value as Decimal).replace(/\.?0+$/, match => (match.startsWith('.') ? '' : match))
                : value,
            ]
          }),
      ),
    ),
  }))
async function written(data: DataRecords, make: (out: PassThrough) => JsonRows | CsvRows): Promise<string> {
  const out = new PassThrough()
  const whole = text(out)
  const writer = make(out)
  await writer.add(data)
  await writer.end()
  out.end()
  return whole
}

describe('pinned rows', () => {
  it('packed for the browser and unpacked again are the same', () => {
    fc.assert(
      fc.property(heads, list => {
        const data = records(list)
        expect(
          said({
            levels: data.levels.map(level => unpackLevel(JSON.parse(JSON.stringify(packLevel(level))) as ReturnType<typeof packLevel>)),
          }),
        ).toEqual(said(data))
      }),
    )
  })

  it('written as JSON and read again are the same, every digit', async () => {
    await fc.assert(
      fc.asyncProperty(heads, async list => {
        const data = records(list)
        expect(said(rowsFromJson(await written(data, out => new JsonRows(out, levels)), levels))).toEqual(said(data))
      }),
    )
  })

  it('written as CSV level by level and read again are the same', async () => {
    await fc.assert(
      fc.asyncProperty(heads, async list => {
        // CSV cannot tell an empty text from none
        const data = records(list.map(head => ({ ...head, name: head.name ?? '', lines: head.lines })))
        const blank: DataRecords = { levels: levels.map(() => ({ count: 0, starts: new Int32Array(1), columns: {} })) }
        const first = rowsFromCsv(await written(data, out => new CsvRows(out, levels[0]!)), levels, 'head', blank)
        expect(said(rowsFromCsv(await written(data, out => new CsvRows(out, levels[1]!)), levels, 'lines', first))).toEqual(said(data))
      }),
    )
  })

  it.each([
    ['not json', 'The file is not readable JSON; nothing was taken in.'],
    ['{"a":1}', 'The file must be a JSON array with one object per head; nothing was taken in.'],
    ['[{"id":1,"day":"tomorrow"}]', '“tomorrow” in “day” of head 1 is no date; write it like 2026-10-31.'],
    ['[{"id":1,"lines":5}]', '“lines” of record 1 is no list of objects; nothing was taken in.'],
  ])('%s: one sentence', (source, sentence) => {
    expect(() => rowsFromJson(source, levels)).toThrow(sentence)
  })

  it('a CSV line without its parent, or without known titles, is told in a sentence', () => {
    const data = records([{ name: 'a', day: null, open: null, total: null, lines: [] }])
    expect(() => rowsFromCsv('head_id,word\r\n7,x\r\n', levels, 'lines', data)).toThrow(
      'Line 2 belongs to no head that is pinned; its head_id must be among them.',
    )
    expect(() => rowsFromCsv('colour\r\nred\r\n', levels, 'head', data)).toThrow(
      'No title of the file is a field of “Head”; it needs titles such as id, name, day, open.',
    )
    expect(() => rowsFromCsv('id\r\n1\r\n', levels, 'heads', data)).toThrow('There is no level “heads”; there are head, lines.')
  })
})
