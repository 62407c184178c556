import { join } from 'node:path'

/** Where the tables of a generation lie: a folder of an embedded engine, or a schema of a server that keeps copies. */
export type Place = { kind: 'folder'; folder: string } | { kind: 'server'; address: string; schema: string }

/** The schema by which statements name the tables of a copy, wherever they lie; in a folder it is that. */
export const copySchema = 'data'

/** The PostgreSQL server that new generations are kept on, where one is named; it has a user who may make schemas there. */
export const copiesServer = (): string | undefined => process.env.ESTANTE_COPIES_URL || undefined

/** Folder of a generation of a copy. */
export const generationFolder = (folder: string, generation: number) => join(folder, `g${generation}`)

/** The place of a generation of a source, by the folder of all of its own. */
export function placeOfGeneration(folder: string, id: string, generation: number, server: string | undefined): Place {
  if (server === undefined) return { kind: 'folder', folder: generationFolder(folder, generation) }
  return { kind: 'server', address: server, schema: `estante_${id.replace(/[^a-z0-9]/g, '_').slice(-40)}_g${generation}` }
}

/** What is known of a table that is kept; of a copied one the shape in which it was copied, and what the column that grows had come to. */
export interface KeptTable {
  rows: number
  shape?: string
  grown?: { column: string; to: string }
}

/** A generation that can be gone back to. */
export interface Kept {
  number: number
  /** the moment of its rows, ISO 8601 */
  at: string
  rows: number
  /** it lies on the server that keeps copies */
  server?: true
  /** bytes that it takes */
  bytes?: number
  tables?: Record<string, KeptTable>
}
