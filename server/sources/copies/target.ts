import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { PGlite } from '@electric-sql/pglite'
import { sql, type SQL } from 'drizzle-orm'
import pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { bound } from '../../../core/catalog/dialect'
import { quotedName } from '../../../core/sql/statementParts'
import { makeFolder } from '../../engine/durable'
import { AddressError, clientConfig, reachSentence, readAddress } from '../postgres/address'
import { emptyEngine } from './emptyEngine'
import { copySchema, type Place } from './place'

/** The server that keeps copies cannot be used: one sentence. */
export class KeepingError extends Error {}

/** What the tables of a generation are made in. */
export interface Target {
  schema: string
  run: (statement: SQL) => Promise<Record<string, unknown>[]>
  /** a statement that is written out, with its bound values */
  runText: (text: string, values: unknown[]) => Promise<Record<string, unknown>[]>
  /** pieces of PostgreSQL's text format for COPY */
  copy: (table: SQL, pieces: readonly Uint8Array<ArrayBuffer>[]) => Promise<void>
}

/** A table of a target in statements. */
export const tableOf = ({ schema }: Pick<Target, 'schema'>, table: string) => sql`${sql.identifier(schema)}.${sql.identifier(table)}`
export const namesOf = (names: readonly string[]) =>
  sql.join(
    names.map(each => sql.identifier(each)),
    sql`, `,
  )

const ran = (runText: Target['runText'], statement: SQL) => {
  const { text, values } = bound(statement)
  return runText(text, values)
}

function embedded(db: PGlite): Target {
  const runText: Target['runText'] = async (text, values) => (await db.query<Record<string, unknown>>(text, values)).rows
  return {
    schema: copySchema,
    runText,
    run: statement => ran(runText, statement),
    copy: async (table, pieces) => {
      await db.query(bound(sql`copy ${table} from '/dev/blob'`).text, [], { blob: new Blob([...pieces]) })
    },
  }
}

function served(client: pg.Client, schema: string): Target {
  const runText: Target['runText'] = async (text, values) => (await client.query<Record<string, unknown>>(text, values)).rows
  return {
    schema,
    runText,
    run: statement => ran(runText, statement),
    copy: async (table, pieces) => {
      await pipeline(Readable.from(pieces, { objectMode: false }), client.query(copyFrom(bound(sql`copy ${table} from stdin`).text)))
    },
  }
}

/** A connection to the server that keeps copies. @throws KeepingError with one sentence */
async function keepingServer(address: string): Promise<pg.Client> {
  let read: ReturnType<typeof readAddress>
  try {
    read = readAddress(address)
  } catch (error) {
    throw new KeepingError(`ESTANTE_COPIES_URL: ${error instanceof AddressError ? error.message : String(error)}`)
  }
  const client = new pg.Client(clientConfig(read.address, read.password))
  client.on('error', () => {})
  try {
    await client.connect()
    return client
  } catch (error) {
    throw new KeepingError(`The server that keeps copies cannot be used. ${reachSentence(error, read.address)}`)
  }
}

/**
 * Makes the tables of a generation, all of them or nothing. With `from`, tables of another one that lies in a place of the same kind are
 * there at the beginning, without what points from one to another. @throws KeepingError, FullDiskError
 */
export async function makeTables(
  place: Place,
  fill: (target: Target) => Promise<void>,
  from?: { place: Place; tables: readonly string[] },
): Promise<void> {
  if (place.kind === 'folder') {
    const before = from?.place.kind === 'folder' ? from.place.folder : undefined
    return makeFolder(
      place.folder,
      async db => {
        const target = embedded(db)
        if (before === undefined) await target.run(sql`create schema ${sql.identifier(copySchema)}`)
        else await keepOnly(target, from!.tables)
        await fill(target)
      },
      before === undefined ? { empty: emptyEngine(place.folder) } : { from: before },
    )
  }
  const client = await keepingServer(place.address)
  try {
    await client.query('begin')
    const target = served(client, place.schema)
    // one that the program was ended over before anybody knew of it
    await target.run(sql`drop schema if exists ${sql.identifier(place.schema)} cascade`)
    await target.run(sql`create schema ${sql.identifier(place.schema)}`)
    if (from?.place.kind === 'server') {
      const before = { schema: from.place.schema }
      for (const table of from.tables) {
        await target.run(sql`create table ${tableOf(target, table)} (like ${tableOf(before, table)} including all)`)
        await target.run(sql`insert into ${tableOf(target, table)} select * from ${tableOf(before, table)}`)
        await target.run(sql`analyze ${tableOf(target, table)}`)
        const [said] = await target.run(
          sql`select obj_description(to_regclass(${`${quotedName(before.schema)}.${quotedName(table)}`}), 'pg_class') as comment`,
        )
        if (typeof said?.comment === 'string') await comment(target, table, undefined, said.comment)
      }
    }
    await fill(target)
    await client.query('commit')
  } catch (error) {
    if ((error as { code?: string }).code === '42501')
      throw new KeepingError(
        `The server that keeps copies refused: ${(error as Error).message}; let its user make schemas there, or name another in ` +
          `ESTANTE_COPIES_URL.`,
      )
    throw error
  } finally {
    await client.end().catch(() => {})
  }
}

/** Of tables that are there some stay, and nothing points from one to another. */
async function keepOnly(target: Target, tables: readonly string[]): Promise<void> {
  const there = await target.run(sql`select c.relname::text as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where n.nspname = ${target.schema} and c.relkind = 'r'`)
  const pointing = await target.run(sql`select k.conname::text as name, c.relname::text as "table" from pg_constraint k
    join pg_class c on c.oid = k.conrelid join pg_namespace n on n.oid = c.relnamespace
    where n.nspname = ${target.schema} and k.contype = 'f'`)
  for (const { name, table } of pointing)
    await target.run(sql`alter table ${tableOf(target, String(table))} drop constraint ${sql.identifier(String(name))}`)
  for (const { name } of there) if (!tables.includes(String(name))) await target.run(sql`drop table ${tableOf(target, String(name))}`)
}

/** Writes a comment on a table or on a column of it: COMMENT takes no bound values. */
export async function comment(target: Target, table: string, column: string | undefined, text: string): Promise<void> {
  const what = column === undefined ? sql`table ${tableOf(target, table)}` : sql`column ${tableOf(target, table)}.${sql.identifier(column)}`
  await target.run(sql`comment on ${what} is ${sql.raw(`'${text.replaceAll("'", "''")}'`)}`)
}

/** Drops the schema of a generation that nobody reads any more. @throws KeepingError */
export async function dropSchema({ address, schema }: Place & { kind: 'server' }): Promise<void> {
  const client = await keepingServer(address)
  try {
    await client.query(bound(sql`drop schema if exists ${sql.identifier(schema)} cascade`).text)
  } finally {
    await client.end().catch(() => {})
  }
}

/** Bytes that the tables of a schema of the server take. @throws KeepingError */
export async function schemaSize({ address, schema }: Place & { kind: 'server' }): Promise<number> {
  const client = await keepingServer(address)
  try {
    const { rows } = await client.query<{ bytes: string }>(
      `select coalesce(sum(pg_total_relation_size(c.oid)), 0)::text as bytes from pg_class c
       join pg_namespace n on n.oid = c.relnamespace where n.nspname = $1 and c.relkind = 'r'`,
      [schema],
    )
    return Number(rows[0]!.bytes)
  } finally {
    await client.end().catch(() => {})
  }
}
