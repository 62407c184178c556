import type { PGlite } from '@electric-sql/pglite'
import { serialize } from 'pg-protocol'
import type { Query } from '../../../core/sql/query'
import type { PackedRows } from '../../../core/value/packed'
import { type DescribedColumn, joined, rowsPerPart, StatementError, WireReader } from '../reading/wireReader'

/**
 * Runs one statement through the extended query protocol (PostgreSQL manual, chapter 54.2.3) inside the open transaction and hands its
 * rows on in
 * parts, decoded straight from the wire into columns. The unnamed portal stays open between parts.
 * @returns how many rows there were
 */
export async function streamQuery(db: PGlite, query: Query, rowLimit: number, onPart: (rows: PackedRows) => void): Promise<number> {
  const reader = new WireReader(query)
  const send = (...messages: Uint8Array[]) => db.execProtocolRawStream(joined(messages), { onRawData: data => reader.read(data) })
  const values = query.values.map(value => (value === null || value === undefined ? null : String(value)))
  // a text of an author's runs only as the query of a cursor: one statement, a SELECT
  const text = query.authored ? `${cursor} ${query.text}` : query.text
  await send(
    serialize.parse({ text, name: '', types: [] }),
    serialize.bind({ values }),
    serialize.execute({ rows: query.authored ? 0 : rowsPerPart }),
    serialize.sync(),
  )
  if (query.authored) return fetchAll(reader, send, rowLimit, onPart)
  let total = 0
  for (;;) {
    reader.check()
    const part = reader.take()
    total += part.count
    if (part.count || !reader.suspended) onPart(part)
    if (!reader.suspended) return total
    if (total >= rowLimit)
      throw new StatementError(`The statement gives more than ${rowLimit.toLocaleString('en')} rows; narrow it with a filter.`)
    reader.begin()
    await send(serialize.execute({ rows: rowsPerPart }), serialize.sync())
  }
}

const cursor = 'declare authored no scroll cursor for'

async function fetchAll(
  reader: WireReader,
  send: (...messages: Uint8Array[]) => Promise<unknown>,
  rowLimit: number,
  onPart: (rows: PackedRows) => void,
): Promise<number> {
  for (let total = 0; ;) {
    reader.check(cursor.length + 1)
    reader.begin()
    await send(
      serialize.parse({ text: `fetch forward ${rowsPerPart} from authored`, name: '', types: [] }),
      serialize.bind({ values: [] }),
      serialize.execute({ rows: 0 }),
      serialize.sync(),
    )
    reader.check()
    const part = reader.take()
    total += part.count
    if (part.count || !total) onPart(part)
    if (part.count < rowsPerPart) return total
    if (total >= rowLimit)
      throw new StatementError(`The statement gives more than ${rowLimit.toLocaleString('en')} rows; narrow it with a filter.`)
  }
}

/** The columns that a statement would give, without running it (manual, chapter 54.2.3: Describe). */
export async function describeStatement(db: PGlite, text: string): Promise<DescribedColumn[]> {
  const reader = new WireReader({ text, values: [], columns: [] })
  await db.execProtocolRawStream(
    joined([serialize.parse({ text, name: '', types: [] }), serialize.describe({ type: 'S', name: '' }), serialize.sync()]),
    { onRawData: data => reader.read(data) },
  )
  reader.check()
  return reader.described
}
