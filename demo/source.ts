import { join } from 'node:path'
import { workerFile } from '../server/root'
import type { Source, SourcePlugin } from '../server/sources/contract'
import { EmbeddedEngine } from '../server/sources/embedded/engine'
import { registerSource } from '../server/sources/registry'
import { clock } from './company/clock'
import { demoPacks } from './packs'
import { demoCompany } from './people'
import { companyDesk } from './desk/desk'
import { demoReports } from './reports/reports'

/** The schema of the company's tables. */
export const schema = 'company'
/** What reports name the source by. */
export const sourceId = 'caisvelho'

/** Folder of the company's database within a data folder. */
export function companyFolder(dataFolder: string): string {
  return join(dataFolder, 'sources', sourceId)
}

/** The engine that holds the company; `scale` is how large it is made, the first time. */
export function companyEngine(dataFolder: string, scale?: number): EmbeddedEngine {
  return new EmbeddedEngine({
    folder: companyFolder(dataFolder),
    schema,
    thread: workerFile('demo'),
    ...(scale === undefined ? {} : { data: { scale } }),
  })
}

/** Cais Velho: an invented harbour supplier, in an engine of its own. */
function companySource(folder: string, scale: number): Source {
  const engine = companyEngine(folder, scale)
  return {
    id: sourceId,
    name: 'Cais Velho',
    kind: 'demo',
    dialect: 'postgresql',
    schema,
    clock: () => clock,
    open: () => engine.open(),
    made: () => engine.made(),
    catalog: context => engine.catalog(context),
    snapshot: context => engine.snapshot(context),
    state: () => engine.state(),
    guardsTexts: () => true,
    close: () => engine.close(),
    desk: companyDesk(engine, schema),
  }
}

const plugin: SourcePlugin = {
  open: ({ folder, scale }) => companySource(folder, scale),
  company: () => ({ source: sourceId, demo: demoCompany }),
  reports: demoReports,
  packs: demoPacks,
}

/** The company is a source of this program from now on. */
export function registerCompany(): void {
  registerSource(plugin)
}
