import { spawnSync } from 'node:child_process'
import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import ExcelJS from 'exceljs'
import fc from 'fast-check'
import { strToU8, zipSync } from 'fflate'
import { parquetWriteBuffer } from 'hyparquet-writer'
import initSqlJs from 'sql.js'
import { describe, expect, it } from 'vitest'
import { converted } from '../../../core/intake/convert'
import { isRow } from '../../../core/intake/understand'
import { dayText } from '../../../core/value/date'
import { decimal, decimalText, type Decimal } from '../../../core/value/decimal'
import { type Moment, momentText } from '../../../core/value/moment'
import { temporaryFolder } from '../../../tests/support'
import { openFile } from './kinds'
import { understandFile } from './take'
import { unpack } from './unpack'

const folder = temporaryFolder()

/** A file as it would be taken in: types of its columns, and its rows as the database takes them. */
async function taken(name: string, sheet?: string) {
  const opened = await openFile(join(folder, name), name)
  try {
    const understood = await understandFile(opened, { name, sheet: sheet ?? opened.tables[0]!.name }, [])
    const { proposed } = understood
    const rows: (string | null | undefined)[][] = []
    await understood.opened.rows(
      understood.sheet,
      (cells, line) => {
        if (isRow(proposed, cells, line)) rows.push(proposed.columns.map((column, at) => converted(cells[at] ?? '', column.form)))
      },
      {},
    )
    return {
      names: proposed.columns.map(column => column.title),
      types: proposed.columns.map(column => column.form.type),
      scales: proposed.columns.map(column => column.scale),
      rows,
      notes: [...proposed.notes, ...proposed.columns.flatMap(column => column.notes)],
      totals: proposed.totals,
      tables: opened.tables,
    }
  } finally {
    opened.close?.()
  }
}

interface Row {
  key: number
  whole: number | null
  amount: Decimal | null
  day: number | null
  at: Moment | null
  yes: boolean | null
  text: string | null
}
// days after 1 March 1900, where all calendars of spreadsheets agree; times to the millisecond, as spreadsheets keep them
const day = fc.integer({ min: -25_000, max: 100_000 })
const row: fc.Arbitrary<Omit<Row, 'key'>> = fc.record({
  whole: fc.option(fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 })),
  amount: fc.option(fc.integer({ min: -999_999_999_999, max: 999_999_999_999 }).map(units => decimal(units, 2))),
  day: fc.option(day),
  at: fc.option(fc.tuple(day, fc.integer({ min: 1, max: 86_399_999 })).map(([d, ms]) => BigInt(d) * 86_400_000_000n + BigInt(ms) * 1000n)),
  yes: fc.option(fc.boolean()),
  text: fc.option(
    fc.oneof(
      fc.constantFrom(
        '007',
        '12.50',
        '1,234',
        'n/a',
        'true',
        '-',
        'a;b',
        'he said "no"',
        'two\nlines',
        ' padded ',
        'ção',
        '€',
        '31/12/2026',
        '=1+1',
      ),
      fc.string({ minLength: 1, maxLength: 12, unit: fc.constantFrom(...'abc é"\',;|\t<&>_x0041_漢😀') }),
    ),
  ),
})
// at least one value in each column, so that its type can be told, and a text that is nothing else
const table = fc
  .array(row, { minLength: 1, maxLength: 20 })
  .map(rows =>
    [{ whole: 5, amount: decimal(150, 2), day: 20_000, at: 1_750_000_000_123_000n, yes: true, text: 'word' }, ...rows].map(
      (each, key): Row => ({ key: key + 1, ...each }),
    ),
  )
const expected = (rows: readonly Row[]) =>
  rows.map(each => [
    String(each.key),
    each.whole === null ? null : String(each.whole),
    each.amount && decimalText(each.amount),
    each.day === null ? null : dayText(each.day),
    each.at === null ? null : momentText(each.at),
    each.yes === null ? null : each.yes ? 't' : 'f',
    each.text,
  ])
const names = ['key', 'whole', 'amount', 'day', 'at', 'yes', 'text']
const types = ['number', 'number', 'number', 'date', 'moment', 'boolean', 'text']
const plain = (value: Decimal) => decimalText(value)
/** 1.50 and 1.5 are one number; files but for CSV do not say how many digits were written. */
const alike = (rows: (string | null | undefined)[][]) =>
  rows.map(cells => cells.map((cell, at) => (at === 2 && cell?.includes('.') ? cell.replace(/\.?0+$/, '') : cell)))

async function holds(name: string, write: (rows: readonly Row[]) => Promise<void> | void, runs = 40) {
  await fc.assert(
    fc.asyncProperty(table, async rows => {
      await write(rows)
      const found = await taken(name)
      expect(found.names).toEqual(names)
      expect(found.types).toEqual(types)
      expect(alike(found.rows)).toEqual(alike(expected(rows)))
    }),
    { numRuns: runs },
  )
}
const firstDay = Date.UTC(1970, 0, 1)
const dateOf = (value: number | bigint) => new Date(firstDay + (typeof value === 'bigint' ? Number(value / 1000n) : value * 86_400_000))

describe('a table that was written and is taken in again has the same values, types and digits', () => {
  it('as separated values', async () => {
    const cell = (value: string | null) => (value === null ? '' : /[",\n]/.test(value) ? `"${value.replaceAll('"', '""')}"` : value)
    const yes = (value: string | null | undefined, at: number) =>
      at === 5 ? (value === 't' ? 'true' : value === 'f' ? 'false' : null) : (value ?? null)
    await holds('table.csv', rows =>
      writeFileSync(
        join(folder, 'table.csv'),
        `${[names, ...expected(rows).map(cells => cells.map(yes))].map(cells => cells.map(cell).join(',')).join('\n')}\n`,
      ),
    )
  })

  it('as a workbook', async () => {
    await holds(
      'table.xlsx',
      async rows => {
        const book = new ExcelJS.Workbook()
        const sheet = book.addWorksheet('Table 1')
        sheet.addRow(names)
        for (const each of rows) {
          const line = sheet.addRow([each.key, each.whole, each.amount && Number(plain(each.amount)), null, null, each.yes, each.text])
          if (each.day !== null) Object.assign(line.getCell(4), { value: dateOf(each.day), numFmt: 'dd/mm/yyyy' })
          if (each.at !== null) Object.assign(line.getCell(5), { value: dateOf(each.at), numFmt: '[$-816]d "de" mmmm yyyy hh:mm' })
        }
        await book.xlsx.writeFile(join(folder, 'table.xlsx'))
      },
      30,
    )
  })

  it('as JSON', async () => {
    await holds('table.json', rows =>
      writeFileSync(
        join(folder, 'table.json'),
        `[${rows
          .map(
            each =>
              JSON.stringify({ key: each.key, whole: each.whole, amount: 'AMOUNT', day: each.day === null ? null : dayText(each.day) })
                .replace('"AMOUNT"', each.amount ? plain(each.amount) : 'null')
                .slice(0, -1) +
              `,"at":${each.at === null ? null : `"${momentText(each.at, 'T')}"`},"yes":${each.yes},"text":${JSON.stringify(each.text)}}`,
          )
          .join(',\n')}]`,
      ),
    )
  })

  it('as Parquet', async () => {
    await holds('table.parquet', rows =>
      writeFileSync(
        join(folder, 'table.parquet'),
        new Uint8Array(
          parquetWriteBuffer({
            columnData: [
              { name: 'key', data: rows.map(each => each.key) },
              { name: 'whole', data: rows.map(each => (each.whole === null ? null : BigInt(each.whole))) },
              { name: 'amount', data: rows.map(each => each.amount && Number(plain(each.amount))) },
              { name: 'day', data: rows.map(each => (each.day === null ? null : dateOf(each.day))) },
              { name: 'at', data: rows.map(each => (each.at === null ? null : dateOf(each.at))) },
              { name: 'yes', data: rows.map(each => each.yes) },
              { name: 'text', data: rows.map(each => each.text) },
            ] as never,
            schema: [
              { name: 'root', num_children: 7 },
              { name: 'key', type: 'INT32', repetition_type: 'OPTIONAL' },
              { name: 'whole', type: 'INT64', repetition_type: 'OPTIONAL' },
              { name: 'amount', type: 'INT64', converted_type: 'DECIMAL', scale: 2, precision: 18, repetition_type: 'OPTIONAL' },
              { name: 'day', type: 'INT32', converted_type: 'DATE', repetition_type: 'OPTIONAL' },
              { name: 'at', type: 'INT64', converted_type: 'TIMESTAMP_MILLIS', repetition_type: 'OPTIONAL' },
              { name: 'yes', type: 'BOOLEAN', repetition_type: 'OPTIONAL' },
              { name: 'text', type: 'BYTE_ARRAY', converted_type: 'UTF8', repetition_type: 'OPTIONAL' },
            ],
          }),
        ),
      ),
    )
  })

  it('as a database of SQLite', async () => {
    const engine = await initSqlJs()
    await holds('table.sqlite', rows => {
      const db = new engine.Database()
      db.run('create table t (key integer primary key, whole integer, amount real, day text, "at" text, yes boolean, text text)')
      for (const each of rows) {
        const [, , amount, date, at, yes, text] = expected([each])[0]!
        db.run('insert into t values (?, ?, ?, ?, ?, ?, ?)', [
          each.key,
          each.whole,
          amount === null ? null : Number(amount),
          date,
          at,
          yes === null ? null : yes === 't' ? 1 : 0,
          text,
        ] as never)
      }
      writeFileSync(join(folder, 'table.sqlite'), db.export())
      db.close()
    })
  })
})

describe('JSON as programs write it', () => {
  const nested = [
    { id: 1, customer: { name: 'Ana', town: { name: 'Faro' } }, lines: [{ item: 'rope', price: 1.5 }], total: 10 },
    { id: 2, customer: { name: 'Rui' }, lines: [], note: 'late', total: 0.1 },
    { id: 3 },
  ]
  const names = ['id', 'customer_name', 'customer_town_name', 'lines', 'total', 'note']
  const rows = [
    ['1', 'Ana', 'Faro', '[{"item":"rope","price":1.5}]', '10', null],
    ['2', 'Rui', null, '[]', '0.1', 'late'],
    ['3', null, null, null, null, null],
  ]

  it.each([
    ['an array', 'nested.json', JSON.stringify(nested)],
    ['a line each', 'nested.jsonl', nested.map(each => JSON.stringify(each)).join('\n')],
    ['one after another', 'after.json', nested.map(each => JSON.stringify(each)).join('')],
    ['in an object', 'held.json', JSON.stringify({ records: nested })],
  ])('as %s: objects inside are columns of their own, arrays texts, and no record is lost', async (_, name, text) => {
    writeFileSync(join(folder, name), text)
    const found = await taken(name)
    expect(found.names).toEqual(names)
    expect(found.rows).toEqual(rows)
  })

  it('an object with several arrays is several tables; what stands beside them is told', async () => {
    writeFileSync(
      join(folder, 'shop.json'),
      JSON.stringify({ made: '2026-03-31', by: { who: 'x', list: [1] }, a: [{ x: 1 }], b: [{ y: 2 }, { y: 3 }] }),
    )
    const found = await taken('shop.json', 'b')
    expect(found.tables).toEqual([{ name: 'a' }, { name: 'b' }])
    expect(found.rows).toEqual([['2'], ['3']])
    expect(found.notes).toEqual(['What stands beside the tables is left out: “made”, “by”.'])
  })

  it('one object is one record; numbers keep their digits; arrays of arrays are refused', async () => {
    writeFileSync(join(folder, 'one.json'), '{"a": 12345678901234567890.12345, "b": {"c": true}, "d": 1e3}')
    expect(await taken('one.json')).toMatchObject({ names: ['a', 'b_c', 'd'], rows: [['12345678901234567890.12345', 't', '1000']] })
    writeFileSync(join(folder, 'lists.json'), '[[1, 2], [3, 4]]')
    await expect(taken('lists.json')).rejects.toThrow('holds arrays within arrays')
  })
})

describe('a database of SQLite', () => {
  it('keeps rows that are empty or read like the titles, whole numbers of nineteen digits, and its tables apart', async () => {
    const engine = await initSqlJs()
    const db = new engine.Database()
    db.run(`create table one (name text); insert into one values ('name'), (null), ('x'), (null);
      create table two (big integer, "odd ""name" real); insert into two values (9223372036854775807, 0.1), (-1, 1e21)`)
    writeFileSync(join(folder, 'two.sqlite'), db.export())
    db.close()
    expect((await taken('two.sqlite', 'one')).rows).toEqual([['name'], [null], ['x'], [null]])
    const two = await taken('two.sqlite', 'two')
    expect(two.names).toEqual(['big', 'odd "name'])
    expect(two.rows).toEqual([
      ['9223372036854775807', '0.1'],
      ['-1', `1${'0'.repeat(21)}`],
    ])
  })
})

describe('a workbook as people make them', () => {
  async function workbook(name: string, fill: (book: ExcelJS.Workbook) => void): Promise<void> {
    const book = new ExcelJS.Workbook()
    fill(book)
    await book.xlsx.writeFile(join(folder, name))
  }

  it('has merged titles above, errors, a total at its end, a hidden sheet and an empty one, each told', async () => {
    await workbook('report.xlsx', book => {
      const sheet = book.addWorksheet('Sales 2026')
      sheet.mergeCells('A1:D1')
      sheet.getCell('A1').value = 'Sales of Cais Velho'
      sheet.addRow([])
      sheet.addRow(['Item', 'Sold on', 'Amount', ''])
      sheet.addRow(['Rope', new Date(Date.UTC(2026, 2, 3)), { formula: '1/0', result: { error: '#DIV/0!' } }])
      sheet.addRow(['Anchor', new Date(Date.UTC(2026, 2, 4)), { formula: 'C3*2', result: 12.5 }])
      sheet.addRow(['Total', null, 12.5])
      book.addWorksheet('Hidden', { state: 'hidden' }).addRow(['a'])
      book.addWorksheet('Empty')
    })
    const found = await taken('report.xlsx', 'Sales 2026')
    expect(found.tables).toEqual([{ name: 'Sales 2026' }, { name: 'Hidden', hidden: true }, { name: 'Empty' }])
    expect(found.names).toEqual(['Item', 'Sold on', 'Amount'])
    expect(found.types).toEqual(['text', 'date', 'number'])
    expect(found.rows).toEqual([
      ['Rope', '2026-03-03', null],
      ['Anchor', '2026-03-04', '12.5'],
      ['Total', null, '12.5'],
    ])
    expect(found.totals).toEqual([{ line: 6, words: 'Total' }])
    expect(found.notes).toEqual([
      '1 line above the table is left out.',
      'One cell holds an error of a formula (line 4: #DIV/0!); it is taken as empty.',
      'One group of cells is merged; the first of them has the value.',
    ])
    await expect(taken('report.xlsx', 'Empty')).rejects.toThrow('The sheet “Empty” of “report.xlsx” holds no rows')
  })

  it('keeps texts that look like numbers, numbers of any size, and dates of both systems', async () => {
    for (const date1904 of [false, true]) {
      await workbook('odd.xlsx', book => {
        book.properties.date1904 = date1904
        const sheet = book.addWorksheet('Odd')
        sheet.addRow(['code', 'long', 'number', 'day', 'clock'])
        for (const [code, number, day] of [
          ['007', 0.1 + 0.2, '1904-01-02'],
          ['12345678901234567890123456789012345678.90', 1.1, '2026-12-31'],
        ] as const) {
          const line = sheet.addRow([code, code, number, new Date(`${day}T00:00:00Z`), new Date(`${day}T13:45:30.250Z`)])
          line.getCell(4).numFmt = 'dd/mm/yyyy'
          line.getCell(5).numFmt = 'dd/mm/yyyy hh:mm'
        }
      })
      const found = await taken('odd.xlsx')
      expect(found.types).toEqual(['text', 'text', 'number', 'date', 'moment'])
      expect(found.rows).toEqual([
        ['007', '007', '0.30000000000000004', '1904-01-02', '1904-01-02 13:45:30.25'],
        [
          '12345678901234567890123456789012345678.90',
          '12345678901234567890123456789012345678.90',
          '1.1',
          '2026-12-31',
          '2026-12-31 13:45:30.25',
        ],
      ])
    }
  })

  it('is read as LibreOffice saves it', async () => {
    writeFileSync(
      join(folder, 'sheet.csv'),
      'day,amount,text,time\n2026-03-31,1234.5,x,2026-03-31 09:30:00\n2026-04-01,-0.1,007a,2026-04-01 10:00:00\n',
    )
    const done = spawnSync('soffice', [
      `-env:UserInstallation=file://${folder}/office`,
      '--headless',
      '--infilter=CSV:44,34,76,1,,1033',
      '--convert-to',
      'xlsx',
      '--outdir',
      folder,
      join(folder, 'sheet.csv'),
    ])
    expect(done.status).toBe(0)
    const found = await taken('sheet.xlsx')
    expect(found.types).toEqual(['date', 'number', 'text', 'moment'])
    expect(found.rows).toEqual([
      ['2026-03-31', '1234.5', 'x', '2026-03-31 09:30:00'],
      ['2026-04-01', '-0.1', '007a', '2026-04-01 10:00:00'],
    ])
  })

  it.each([
    [
      'secret.xlsx',
      Buffer.from('d0cf11e0a1b11ae1', 'hex'),
      'is no workbook that can be read; save it as an Excel workbook (.xlsx), without a password',
    ],
    ['cut.parquet', Buffer.from('PAR1 and then nothing'), 'is no Parquet file that can be read, or it is cut off'],
    ['broken.json', Buffer.from('[{"a": 1}, {"a": '), 'is no JSON that can be read'],
    ['broken.sqlite', Buffer.from('SQLite format 3\0 but no more'), 'is no database of SQLite that can be read'],
    ['old.xls', Buffer.from('x'), 'save it as an Excel workbook (.xlsx)'],
    ['picture.png', Buffer.from('x'), 'is of a kind that does not become a table'],
    ['wide.csv', Buffer.from(Array.from({ length: 2000 }, (_, at) => `c${at}`).join(',') + '\n'), 'has 2,000 columns'],
    ['none.csv', Buffer.from(''), '“none.csv” holds no rows; choose a file with a table in it.'],
    ['cut16.csv', Buffer.from('\uFEFFa,b\n1,2\n', 'utf16le').subarray(0, -1), 'UTF-16'],
  ])('%s is refused with a sentence', async (name, bytes, sentence) => {
    writeFileSync(join(folder, name), bytes)
    await expect(taken(name)).rejects.toThrow(sentence)
  })
})

describe('separated values as they are met', () => {
  it.each([
    ['marked16.csv', Buffer.from('\uFEFFname;amount\r\nSetúbal;1,5\r\nÉvora;2,5\r\n', 'utf16le')],
    ['big16.csv', Buffer.from('\uFEFFname;amount\r\nSetúbal;1,5\r\nÉvora;2,5\r\n', 'utf16le').swap16()],
    ['latin.csv', Buffer.from('name;amount\nSetúbal;1,5\rÉvora;2,5\r\n', 'latin1')],
    ['marked.csv', Buffer.from('\uFEFFname;amount\nSetúbal;1,5\n"Évora";"2,5"', 'utf8')],
  ])('%s is read as it is written', async (name, bytes) => {
    writeFileSync(join(folder, name), bytes)
    expect(await taken(name)).toMatchObject({
      names: ['name', 'amount'],
      rows: [
        ['Setúbal', '1.5'],
        ['Évora', '2.5'],
      ],
    })
  })

  it('one column is a table', async () => {
    writeFileSync(join(folder, 'one.csv'), 'name\nrope\nanchor\n')
    expect(await taken('one.csv')).toMatchObject({ names: ['name'], rows: [['rope'], ['anchor']] })
  })

  it('300 MB on one line are refused with its place, and without all of them in memory', async () => {
    const path = join(folder, 'endless.csv')
    writeFileSync(path, 'a,b\n1,')
    const piece = Buffer.alloc(10_000_000, 'x')
    for (let at = 0; at < 30; at++) appendFileSync(path, piece)
    const before = process.memoryUsage().rss
    await expect(taken('endless.csv')).rejects.toThrow('A cell on line 2 has more than 10,000,000 characters; say which separator')
    expect(process.memoryUsage().rss - before).toBeLessThan(200e6)
    writeFileSync(path, 'a,b\n1,"')
    for (let at = 0; at < 30; at++) appendFileSync(path, piece)
    await expect(taken('endless.csv')).rejects.toThrow('A quote that opens on line 2 is not closed within ten million letters')
  })
})

describe('an archive', () => {
  it('gives the files that become tables, wherever they lie in it, and leaves the others', async () => {
    const path = join(folder, 'all.zip')
    writeFileSync(
      path,
      zipSync({
        'books/prices.csv': strToU8('a,b\n1,2\n'),
        '__MACOSX/books/._prices.csv': strToU8('x'),
        'read me.pdf': strToU8('x'),
        'more/stock.TSV': strToU8('c\td\n3\t4\n'),
      }),
    )
    const files = await unpack(path, 'all.zip', folder)
    expect(files.map(file => file.name)).toEqual(['prices.csv', 'stock.TSV'])
    expect(files.every(file => dirname(file.path) === folder)).toBe(true)
    expect(readFileSync(files[1]!.path, 'utf8')).toBe('c\td\n3\t4\n')
  })

  it('that would unpack to far more than it is, or whose names lead elsewhere, is refused', async () => {
    const bomb = zipSync({ 'bomb.csv': new Uint8Array(150 * 2 ** 20) }, { level: 9 })
    writeFileSync(join(folder, 'bomb.zip'), bomb)
    await expect(unpack(join(folder, 'bomb.zip'), 'bomb.zip', folder)).rejects.toThrow('would unpack to 150 MB, which is not believed')
    writeFileSync(join(folder, 'bomb.xlsx'), bomb)
    await expect(taken('bomb.xlsx')).rejects.toThrow('which is not believed')
    writeFileSync(join(folder, 'tricks.zip'), zipSync({ '../../outside.csv': strToU8('a\n1\n') }))
    await expect(unpack(join(folder, 'tricks.zip'), 'tricks.zip', folder)).rejects.toThrow('cannot be read')
    expect(existsSync(join(folder, '..', '..', 'outside.csv'))).toBe(false)
    writeFileSync(join(folder, 'none.zip'), zipSync({ 'a.pdf': strToU8('x') }))
    await expect(unpack(join(folder, 'none.zip'), 'none.zip', folder)).rejects.toThrow('holds no files that become tables')
    writeFileSync(join(folder, 'cut.zip'), bomb.subarray(0, 100))
    await expect(unpack(join(folder, 'cut.zip'), 'cut.zip', folder)).rejects.toThrow('it is not whole, or no archive at all')
  })
})
