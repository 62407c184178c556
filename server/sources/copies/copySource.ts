import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { workerFile } from '../../root'
import type { Source } from '../contract'
import { EmbeddedEngine } from '../embedded/engine'
import { ownDay } from '../ownDay'

/** The schema of a copy's tables. */
export const copySchema = 'data'

/** Folder of a generation of a copy. */
export const generationFolder = (folder: string, generation: number) => join(folder, `g${generation}`)

/** Tables that Estante keeps itself, in an embedded engine: what files held when they were taken in. */
export function copySource(options: { id: string; name: string; folder: string; generation: number; asOf?: number }): Source {
  const { id, name, folder, generation, asOf } = options
  const engine = new EmbeddedEngine({ folder: generationFolder(folder, generation), schema: copySchema, thread: workerFile('engine') })
  return {
    id,
    name,
    kind: 'files',
    dialect: 'postgresql',
    schema: copySchema,
    clock: ownDay,
    open: () => engine.open(),
    made: () => engine.made(),
    catalog: context => engine.catalog(context),
    snapshot: context => engine.snapshot(context),
    state: () => engine.state(),
    about: () => ({ from: 'files', ...(asOf === undefined ? {} : { asOf }) }),
    close: () => engine.close(),
  }
}

/** The folder of a copy that nobody knows any more. */
export const removeCopy = (folder: string) => rmSync(folder, { recursive: true, force: true })
