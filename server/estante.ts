import { mkdirSync, rmSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { applySettings, type SourceSettings } from '../core/books/settings'
import type { Catalog } from '../core/books/catalog'
import { answeredLabels, choiceProblems } from './runs/choices'
import { withLetterhead } from '../core/definition/edits/layout'
import { chartQuery, unitsQuery, versionsQuery } from '../core/sql/ledger'
import { valueAt } from '../core/value/columns'
import type { ReportDefinition } from '../core/definition/report'
import { type ChartRow, ledgerWords } from '../core/books/chart'
import type { LedgerMap } from '../core/books/ledger'
import { clock } from '../demo/masters'
import { demoReports } from '../demo/reports'
import { projectRoot } from './root'
import { RunError, type RunInput } from './runs/execute'
import { RunPool } from './runs/pool'
import { RunRegistry } from './runs/registry'
import { demoFolder, SourceEngine } from './sources/engine'
import { takeFolder } from './store/lock'
import { Store } from './store/store'

/** Texts of a statement, row by row. */
async function textRows(
  engine: SourceEngine,
  { text, values }: { text: string; values: unknown[] },
  count: number,
): Promise<(string | null)[][]> {
  const rows = await engine.query({
    text,
    values,
    columns: Array.from({ length: count }, (_, index) => ({ path: `t${index}`, type: 'text' as const })),
  })
  return Array.from({ length: rows.count }, (_, row) => rows.columns.map(column => valueAt(column, row) as string | null))
}

/** The accounts of the source by their codes. */
export async function chart(engine: SourceEngine, { accounts }: Pick<LedgerMap, 'accounts'>): Promise<ChartRow[]> {
  return (await textRows(engine, chartQuery(accounts, sourceSchema), 4)).map(([code, name, type, group]) => ({
    code: code ?? '',
    name: name ?? '',
    type: type ?? null,
    class: group ?? null,
  }))
}

/** The books as somebody said where they are, with what only the rows tell. */
export async function withRows(engine: SourceEngine, said: LedgerMap): Promise<LedgerMap> {
  const found: LedgerMap = { ...said, ...ledgerWords(await chart(engine, said), said) }
  for (const key of ['branches', 'departments'] as const) {
    const unit = found[key]
    if (unit)
      found[key] = {
        ...unit,
        units: (await textRows(engine, unitsQuery(unit, sourceSchema), 2)).map(([code, name]) => ({ code: code ?? '', name: name ?? '' })),
      }
  }
  if (found.budgets?.version)
    found.versions = (await textRows(engine, versionsQuery(found.budgets, sourceSchema), 1)).map(([version]) => version ?? '')
  return found
}

/** The schema of the source's tables. */
export const sourceSchema = 'company'
/** The one source of this version. */
export const sourceId = 'caisvelho'

/** The parts of a running Estante: what the server's routes and the command line both work with. */
export interface Estante {
  store: Store
  engine: SourceEngine
  pool: RunPool
  runs: RunRegistry
  /** what the source holds, with what is kept with it; where the source is away, as it was last read */
  catalog: (again?: boolean) => Promise<Catalog>
  /** what it holds by itself */
  bareCatalog: () => Promise<Catalog>
  /** one sentence where the source cannot be read */
  sourceProblem: () => string
  settings: () => Promise<SourceSettings>
  saveSettings: (settings: SourceSettings) => Promise<void>
  /** all that a run needs to know */
  input: (name: string, definition: ReportDefinition, answers: Record<string, string>) => Promise<RunInput>
  /** the same, once each answer is known to be among its choices @throws RunError */
  checkedInput: (name: string, definition: ReportDefinition, answers: Record<string, string>) => Promise<RunInput>
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

/**
 * Takes the data folder and opens all parts; the first time, the demo company and its reports are made. @throws StoreError where the
 * folder is in use
 */
export async function openEstante(options: EstanteOptions): Promise<Estante> {
  const lock = takeFolder(options.folder)
  const runsFolder = join(options.folder, 'runs')
  rmSync(runsFolder, { recursive: true, force: true })
  for (const folder of [join(options.folder, 'sources'), runsFolder]) mkdirSync(folder, { recursive: true })
  const engine = new SourceEngine({ folder: demoFolder(options.folder), schema: sourceSchema, demo: { scale: options.scale ?? 1 } })
  try {
    const [store] = await Promise.all([
      Store.open(options.databaseUrl ? { url: options.databaseUrl } : { folder: join(options.folder, 'store') }),
      // a source that is away does not keep the library closed
      engine.open().catch(() => {}),
    ])
    await store.offer(demoReports())
    const pool = new RunPool(engine)
    let catalog: Promise<Catalog> | undefined
    let problem = ''
    const readCatalog = (again = false) => {
      if (again) catalog = undefined
      return (catalog ??= (async () => {
        const settings = await store.settings(sourceId)
        try {
          const found = await engine.catalog({ client: 'catalog' })
          problem = ''
          await store.keepCatalog(sourceId, found).catch(() => {})
          const applied = applySettings(found, settings)
          return settings.ledger && applied.ledger ? { ...applied, ledger: await withRows(engine, applied.ledger) } : applied
        } catch (error) {
          catalog = undefined
          problem = error instanceof Error ? error.message : String(error)
          const last = await store.lastCatalog(sourceId)
          if (!last) throw error
          return applySettings(last, settings)
        }
      })())
    }
    const input = async (name: string, definition: ReportDefinition, answers: Record<string, string>): Promise<RunInput> => {
      const plain: RunInput = {
        name,
        definition: withLetterhead(definition, await store.letterhead()),
        answers,
        catalog: await readCatalog(),
        schema: sourceSchema,
        today: clock,
      }
      return { ...plain, labels: await answeredLabels(engine, plain) }
    }
    const runs = new RunRegistry(runsFolder, pool)
    return {
      store,
      engine,
      pool,
      runs,
      catalog: readCatalog,
      bareCatalog: () => engine.catalog({ client: 'catalog' }),
      sourceProblem: () => problem,
      settings: () => store.settings(sourceId),
      saveSettings: async settings => {
        await store.saveSettings(sourceId, settings)
        catalog = undefined
      },
      input,
      checkedInput: async (name, definition, answers) => {
        const found = await input(name, definition, answers)
        const problems = await choiceProblems(engine, found)
        if (problems.length) throw new RunError(problems)
        return found
      },
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
