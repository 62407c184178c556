import { mkdirSync, rmSync } from 'node:fs'
import { join, resolve } from 'node:path'
import type { Catalog } from '../core/catalog/types'
import type { ReportDefinition } from '../core/definition/types'
import { clock } from '../demo/masters'
import { salesInvoice } from '../demo/report'
import { projectRoot } from './root'
import type { RunInput } from './runs/execute'
import { RunPool } from './runs/pool'
import { RunRegistry } from './runs/registry'
import { demoFolder, SourceEngine } from './sources/engine'
import { takeFolder } from './store/lock'
import { Store } from './store/store'

/** The schema of the source's tables. */
export const sourceSchema = 'company'

/** The parts of a running Estante: what the server's routes and the command line both work with. */
export interface Estante {
  store: Store
  engine: SourceEngine
  pool: RunPool
  runs: RunRegistry
  /** what the source holds */
  catalog: (again?: boolean) => Promise<Catalog>
  /** all that a run needs to know */
  input: (name: string, definition: ReportDefinition, answers: Record<string, string>) => Promise<RunInput>
  tellAddress: (address: string) => void
  close: () => Promise<void>
}

export interface EstanteOptions {
  folder: string
  /** size of the demo company when it is made */
  scale?: number
  databaseUrl?: string
}

/** Folder of the data where none is named. */
export function dataFolder(): string {
  return resolve(projectRoot(), process.env.ESTANTE_DATA ?? '.data')
}

/** Takes the data folder and opens all parts; the first time, the demo company and its reports are made. @throws StoreError where the folder is in use */
export async function openEstante(options: EstanteOptions): Promise<Estante> {
  const lock = takeFolder(options.folder)
  const runsFolder = join(options.folder, 'runs')
  rmSync(runsFolder, { recursive: true, force: true })
  for (const folder of [join(options.folder, 'sources'), runsFolder]) mkdirSync(folder, { recursive: true })
  const engine = new SourceEngine({ folder: demoFolder(options.folder), schema: sourceSchema, demo: { scale: options.scale ?? 1 } })
  try {
    const [store] = await Promise.all([
      Store.open(options.databaseUrl ? { url: options.databaseUrl } : { folder: join(options.folder, 'store') }),
      engine.open(),
    ])
    if (!(await store.library()).length) await store.create('Invoicing', 'Sales invoice', salesInvoice(), true)
    const pool = new RunPool(engine)
    let catalog: Promise<Catalog> | undefined
    const readCatalog = (again = false) => {
      if (again) catalog = undefined
      return catalog ??= engine.catalog({ client: 'catalog' }).catch((error: unknown) => {
        catalog = undefined
        throw error
      })
    }
    const runs = new RunRegistry(runsFolder, pool)
    return {
      store, engine, pool, runs, catalog: readCatalog,
      input: async (name, definition, answers) => ({ name, definition, answers, catalog: await readCatalog(), schema: sourceSchema, today: clock }),
      tellAddress: lock.tell,
      close: async () => {
        runs.close()
        await pool.close()
        await engine.close()
        await store.close()
        lock.release()
      },
    }
  } catch (error) {
    await engine.close()
    lock.release()
    throw error
  }
}
