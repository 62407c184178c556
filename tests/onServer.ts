import { randomUUID } from 'node:crypto'
import { PGlite } from '@electric-sql/pglite'
import pg from 'pg'
import { inWordsOf, type RealTable } from '../server/sources/postgres/words'
import type { TestServer } from './servers'

/**
 * The tests of planner, formulas, data sets and demo reports ask an embedded engine; with ESTANTE_TESTS_ON=server they ask a PostgreSQL
 * server instead, each file a database of its own that is a copy of the company. What they ask goes there in its words.
 */
export const testsServer = process.env.ESTANTE_TESTS_ON === 'server' ? process.env.ESTANTE_TESTS_SERVER : undefined
if (process.env.ESTANTE_TESTS_ON === 'server' && process.env.VITEST_POOL_ID && !testsServer)
  throw new Error('There is no server for the tests.')

const company = 'company'

/** How the tests' server is called in the environment of their processes. */
export function tellServer(server: TestServer): void {
  process.env.ESTANTE_TESTS_SERVER = server.folder
}

/** Types as the embedded engine gives them by itself, by their numbers in PostgreSQL. */
const parsers: Record<number, (text: string) => unknown> = {
  16: text => text === 't',
  20: text => (Number.isSafeInteger(Number(text)) ? Number(text) : BigInt(text)),
  21: Number,
  23: Number,
  114: text => JSON.parse(text) as unknown,
  700: Number,
  701: Number,
  1082: text => new Date(`${text}T00:00:00Z`),
  1114: text => new Date(`${text.replace(' ', 'T')}Z`),
  3802: text => JSON.parse(text) as unknown,
}
const arrays: Record<number, number> = { 1000: 16, 1005: 21, 1007: 23, 1009: 25, 1015: 1043, 1016: 20, 1231: 1700 }

type Parsers = Record<number, (text: string, type?: number) => unknown>

const parserOf = (own: Parsers | undefined) => (type: number) => {
  const given = own?.[type]
  if (given) return (text: string) => given(text)
  const member = arrays[type]
  if (member === undefined) return parsers[type] ?? ((text: string) => text)
  return (text: string) =>
    (pg.types.getTypeParser(1009 as never)(text) as (string | null)[]).map(each =>
      each === null ? null : (parsers[member] ?? String)(each),
    )
}

/** A database of a test's own on the server, asked as an embedded engine is. `empty` has no company in it. */
export async function serverDatabase(folder: string, empty = false): Promise<PGlite> {
  const name = `t_${randomUUID().replaceAll('-', '')}`
  const at = { host: folder, user: 'estante' }
  const admin = new pg.Client({ ...at, database: 'postgres' })
  await admin.connect()
  await admin.query(`create database ${name} template ${empty ? 'template0' : 'company'}`)
  await admin.end()
  const client = new pg.Client({ ...at, database: name })
  client.on('error', () => {})
  await client.connect()
  await client.query(`set timezone to 'UTC'; set datestyle to 'ISO'; set extra_float_digits to 1`)
  const known = await client.query<{ name: string }>(`select collname as name from pg_collation`)
  const collations = new Set(known.rows.map(row => row.name))
  const has = (...names: string[]) => `"${names.find(each => collations.has(each)) ?? 'C'}"`
  // every table is called as it is
  const tables = { get: (table: string): RealTable => ({ schema: company, name: table }) } as unknown as ReadonlyMap<string, RealTable>
  const words = { called: company, tables, order: has('unicode', 'und-x-icu'), fold: has('pg_unicode_fast', 'und-x-icu') }
  const own: Pick<PGlite, 'query' | 'exec' | 'close'> = {
    query: (async (text: string, values: unknown[] = [], options: { rowMode?: 'array'; parsers?: Parsers } = {}) => {
      const found = await client.query({
        text: inWordsOf(words, text),
        values,
        ...(options.rowMode ? { rowMode: options.rowMode } : {}),
        types: { getTypeParser: parserOf(options.parsers) as never },
      })
      return {
        rows: found.rows,
        fields: found.fields.map(({ name: column, dataTypeID }) => ({ name: column, dataTypeID })),
        affectedRows: found.rowCount ?? 0,
      }
    }) as PGlite['query'],
    exec: (async (text: string) => {
      await client.query(inWordsOf(words, text))
      return []
    }) as PGlite['exec'],
    close: async () => {
      await client.end()
    },
  }
  return own as unknown as PGlite
}

/** A database with nothing in it, to ask by hand. */
export const emptyDatabase = (): Promise<PGlite> => (testsServer ? serverDatabase(testsServer, true) : PGlite.create())
