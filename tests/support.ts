import '../plugins'
import { execFileSync } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PGlite } from '@electric-sql/pglite'
import { afterAll } from 'vitest'
import type { Catalog } from '../core/books/catalog'
import type { ReportDefinition } from '../core/definition/report'
import type { Query, Rows } from '../core/sql/query'
import type { Column } from '../core/value/columns'
import { columnBuilder, unpackColumn } from '../core/value/packed'
import { companyFolder, schema as sourceSchema, sourceId } from '../demo/source'
import type { Context } from '../server/access/context'
import type { Estante } from '../server/estante'
import { readCatalog } from '../server/sources/embedded/introspect'
import { serverDatabase, testsServer } from './onServer'

/** Who asks in tests. */
export const tester: Context = { person: 'tester' }

/** A statement over the demo company of a running Estante. */
export const askCompany = (estante: Estante, query: Query): Promise<Rows> =>
  estante.sources.reading(tester, '', snapshot => snapshot.query(query))

/** What tests that start without an Estante say of the catalog that they hand to a run. */
export const sourceOfTests = { source: sourceId, catalogVersion: 'test' }

/** A data folder with the demo company, made before the tests. */
export const template = join(process.cwd(), '.build', 'testdata')

/** A folder of a test's own, gone when its file is done. */
export function temporaryFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** A data folder of the test's own, with the demo company in it. */
export function demoData(): string {
  const folder = temporaryFolder()
  cpSync(template, folder, { recursive: true })
  rmSync(join(folder, 'holder.json'), { force: true })
  return folder
}

/** The demo company's database, to ask by hand. */
export async function demoDatabase(): Promise<{ db: PGlite; catalog: Catalog }> {
  const db = testsServer ? await serverDatabase(testsServer) : await PGlite.create(companyFolder(demoData()))
  await db.exec(`set search_path to ${sourceSchema}`)
  afterAll(() => db.close())
  return { db, catalog: await readCatalog(db, sourceSchema) }
}

const rawTypes = Object.fromEntries([16, 20, 21, 23, 700, 701, 1042, 1043, 1082, 1700, 25].map(id => [id, (text: string) => text]))

const encoder = new TextEncoder()

/**
 * Runs planned statements through the plain query interface, independent of the engine's own reader of the wire; the cells go through the
 * packed form, as those of runs do.
 */
export function plainFetch(db: PGlite): (query: Query) => Promise<Rows> {
  return async query => {
    const result = await db.query<(string | null)[]>(query.text, query.values, { rowMode: 'array', parsers: rawTypes, serializers: {} })
    const columns = query.columns.map(({ type, scale }, index): Column => {
      const packed = columnBuilder(type, scale, result.rows.length)
      for (const row of result.rows) {
        const cell = row[index]!
        if (cell === null) packed.empty()
        else {
          const bytes = encoder.encode(cell)
          packed.add(bytes, 0, bytes.length)
        }
      }
      return unpackColumn(packed.take())
    })
    return { count: result.rows.length, columns }
  }
}

/** What a report gives as it stands: its rows as JSON, and the words of its pages by another program’s reading. */
export async function rowsAndPages(app: Estante, folder: string, name: string, definition: ReportDefinition): Promise<[string, string]> {
  const input = await app.input(tester, name, definition, {})
  const [json, pdf] = [join(folder, 'out.json'), join(folder, 'out.pdf')]
  for (const [format, file] of [
    ['json', json],
    ['pdf', pdf],
  ] as const) {
    writeFileSync(file, '')
    await app.pool.run(tester, input, { format, file })
  }
  return [readFileSync(json, 'utf8'), execFileSync('pdftotext', ['-layout', pdf, '-']).toString()]
}
