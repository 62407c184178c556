import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import type { TriedServer } from '../core/api/intake'
import type { ReportDefinition } from '../core/definition/report'
import { withLetterhead } from '../core/definition/edits/layout'
import { createHash } from 'node:crypto'
import { type Context, ownContext } from './access/context'
import type { DemoPeople } from './access/demoPeople'
import { FirstLink } from './access/firstLink'
import { Guesses } from './access/guesses'
import { RefusedTries } from './access/refusedTries'
import type { People } from './access/people'
import { Provider } from './access/provider'
import { sameText } from './access/sameText'
import { projectRoot } from './root'
import { answeredLabels, choiceProblems } from './runs/choices'
import { nestedInputs } from './runs/nested/resolve'
import { elsewhereSources, readElsewhere } from './runs/elsewhere'
import { RunError, type RunInput } from './runs/input'
import { PackAddresses } from './packs/addresses'
import { Deliverer } from './packs/deliverer'
import { Outbox } from './packs/outbox'
import { mailServerOf, printerOf, printersOf } from './packs/outside'
import { PrinterStandIn } from './packs/print/standIn'
import { PackRunner } from './packs/runner'
import { Schedule } from './packs/schedule'
import { scheduleWorld } from './packs/world'
import { Planner } from './runs/planner'
import { Miniatures } from './runs/miniatures'
import { RunPool } from './runs/pool'
import { contextOfRun, mayGoOn, seesRead, sightsIn } from './runs/theirs'
import { RunFolder } from './runs/runFolder'
import { RunRegistry } from './runs/registry'
import { registeredSources } from './sources/registry'
import { addCopy, type CopyProgress, refreshCopy, type SaidCopy } from './sources/copies/addCopy'
import { generationsOf, goToGeneration } from './sources/copies/keptSource'
import { clearUnfinished, type KeepingParts } from './sources/copies/generations'
import { connected } from './sources/connections'
import { putSourceAway } from './sources/putAway'
import type { Within } from './sources/namedSource'
import { Sources } from './sources/sources'
import { type SaidServer, addServer } from './sources/postgres/addServer'
import { Secrets } from './store/secrets'
import { takeFolder } from './store/lock'
import { Store } from './store/store'
import { addFiles, takeAgain, type TakingProgress } from './sources/files/addFiles'
import { BroughtFiles } from './sources/files/brought'
import { FolderWatches } from './sources/files/watch'
import type { TakenTable } from './sources/files/take'
import type { GivenFile } from './sources/files/take.worker'

/** The parts of a running Estante: what the server's routes and the command line both work with. */
export interface Estante {
  store: Store
  sources: Sources
  pool: RunPool
  planner: Planner
  runs: RunRegistry
  runFolder: RunFolder
  packs: PackRunner
  /** begins packs when they are due */
  schedule: Schedule
  /** where letters go as long as no mail server is named */
  outbox: Outbox
  /** a printer that ships with the program */
  printer: PrinterStandIn
  secrets: Secrets
  miniatures: Miniatures
  /** all that a run needs to know; `version` names the definition, where it is one that is kept, and `report` the report by its id */
  input: (
    context: Context,
    name: string,
    definition: ReportDefinition,
    answers: Record<string, string>,
    more?: { dataSet?: number; version?: string; report?: string },
  ) => Promise<RunInput>
  /** the same, once each answer is known to be among its choices @throws RunError */
  checkedInput: (
    context: Context,
    name: string,
    definition: ReportDefinition,
    answers: Record<string, string>,
    more?: { version?: string; layout?: string | undefined },
  ) => Promise<RunInput>
  /** takes files in as a source of their own @throws StoreError */
  addFiles: (
    context: Context,
    name: string,
    files: readonly GivenFile[],
    more?: { progress?: (progress: TakingProgress) => void; watch?: { folder: string; seen: Record<string, string> } },
  ) => Promise<{ id: string; tables: TakenTable[] }>
  /** takes files into a source of files that is there: each replaces the table of its name, or is one more @throws StoreError */
  takeAgain: (
    context: Context,
    id: string,
    files: readonly GivenFile[],
    more?: { evenSo?: boolean; progress?: (progress: TakingProgress) => void },
  ) => Promise<{ tables: TakenTable[] }>
  /** connects a server as a source of its own @throws StoreError */
  addServer: (context: Context, name: string, said: SaidServer) => Promise<{ id: string; tried: TriedServer }>
  /** copies of other databases @throws StoreError */
  copies: {
    add: (
      context: Context,
      name: string,
      said: SaidCopy,
      progress?: (progress: CopyProgress) => void,
    ) => Promise<{ id: string; tables: TakenTable[] }>
    refresh: (
      context: Context,
      id: string,
      more?: { evenSo?: boolean; progress?: (progress: CopyProgress) => void },
    ) => Promise<{ generation: number; tables: TakenTable[] }>
    use: (context: Context, id: string, generation: number) => Promise<void>
    generations: (context: Context, id: string) => ReturnType<typeof generationsOf>
  }
  /** what sources that people add are kept with, and where one finds the others */
  keeping: KeepingParts
  within: Within
  /** folders whose files are taken in when they change */
  watches: FolderWatches
  /** lets a source that was added go, with its tables @throws StoreError */
  putSourceAway: (context: Context, id: string) => Promise<void>
  /** files that were brought, and wait to be taken in */
  brought: BroughtFiles
  /** rights were changed: what runs in the name of somebody who may not run it so any more stops */
  recheck: () => Promise<void>
  /** who can sign in */
  people: People
  guesses: Guesses
  /** sign-ins that were refused, for the log */
  refusedTries: RefusedTries
  firstLink: FirstLink
  /** signs people in by way of a provider */
  provider: Provider
  /** a demo's invented people, who sign in with a click */
  demoPeople: DemoPeople | undefined
  /** it has the sources that come with the program */
  comesWithDemo: boolean
  /** tells this Estante from others under the same name of a host */
  instance: string
  /** is it the key of whoever can read the data folder, as an authorization header brings it? */
  isOwnKey: (header: string | undefined) => boolean
  tellAddress: (address: string) => void
  close: () => Promise<void>
}

export interface EstanteOptions {
  folder: string
  /** size of what a source makes by itself, when it is made */
  scale?: number
  databaseUrl?: string
  /** invented people come with the demo, in a folder that came with it */
  people?: boolean
  /** folders of sources are watched from now on */
  watch?: boolean
  /** sources that hold what they need already are opened while the library can be seen */
  impatient?: boolean
}

/** What tells nested reports from what they are at another time. */
const versionsOf = (nested: RunInput['nested']): string[] =>
  Object.values(nested ?? {}).flatMap(each => [each.definitionVersion ?? '', ...versionsOf(each.nested)])

/**
 * Does a data folder hold people's own sources only, none that comes with the program? It is said once, by ESTANTE_DEMO=off when the folder
 * is new, and stays so whoever opens it.
 */
function ownOnly(folder: string): boolean {
  const mark = join(folder, 'own-sources-only')
  if (process.env.ESTANTE_DEMO === 'off' && !existsSync(join(folder, 'sources'))) writeFileSync(mark, '')
  return existsSync(mark)
}

/** Folder of the data where none is named. */
export function dataFolder(): string {
  return resolve(projectRoot(), process.env.ESTANTE_DATA ?? '.data')
}

/**
 * Takes the data folder and opens all parts; the first time, the registered sources make what they need and offer their reports.
 * @throws StoreError where the folder is in use
 */
export async function openEstante(options: EstanteOptions): Promise<Estante> {
  const lock = takeFolder(options.folder)
  const plugins = ownOnly(options.folder) ? [] : registeredSources()
  mkdirSync(join(options.folder, 'sources'), { recursive: true })
  const opened = plugins.map(plugin => plugin.open({ folder: options.folder, scale: options.scale ?? 1 }))
  const ready = opened.map(source => source.open().catch(() => {}))
  const planner = new Planner()
  try {
    const store = await Store.open(options.databaseUrl ? { url: options.databaseUrl } : { folder: join(options.folder, 'store') }, value =>
      planner.read(ownContext, value),
    )
    await store.offer(
      ownContext,
      plugins.flatMap(plugin => plugin.reports()),
    )
    await store.offerPacks(
      ownContext,
      plugins.flatMap(plugin => plugin.packs?.() ?? []),
    )
    await store.shelving.sweep()
    const demoPeople = options.people && plugins.length ? store.demoPeople : undefined
    for (const plugin of options.people ? plugins : []) {
      const company = plugin.company?.()
      if (company) await store.demoPeople.make(company.demo, company.source)
    }
    const secrets = new Secrets(options.folder)
    store.secrets = secrets
    const connections = await store.connections(ownContext)
    // sources that are read under other names find the others when they are asked
    const within: Within = {
      source: id => sources.get(id),
      catalog: (context, id) => sources.catalog(context, id),
      snapshot: (context, id) => sources.snapshot(context, id),
    }
    const added = connections.map(connection => connected(connection, join(options.folder, 'sources'), secrets, within))
    // on a store that several folders share, another one's copies are not here to be cleared
    // what cannot be taken away now is found again by the next start
    void clearUnfinished(
      join(options.folder, 'sources'),
      connections.map(each => each.id),
    ).catch(() => {})
    const sources: Sources = new Sources([...opened, ...added], store)
    const pool = new RunPool(sources)
    const keeping: KeepingParts = { store, sources, secrets, folder: join(options.folder, 'sources') }
    const watches = new FolderWatches(keeping)
    mkdirSync(join(options.folder, 'incoming'), { recursive: true })
    if (options.watch) await watches.renew()
    // a source that is away does not keep the library closed
    await Promise.all(ready.filter((_, at) => !options.impatient || !opened[at]!.made()))
    const input: Estante['input'] = async (context, name, definition, answers, { dataSet, version, report } = {}) => {
      const source = sources.get(definition.dataSets[dataSet ?? 0]?.source ?? '')
      const [{ catalog, version: catalogVersion }, letterhead] = await Promise.all([
        sources.catalog(context, source.id),
        store.letterhead(context),
      ])
      const id = report ?? version?.split(' ')[0]
      const nested = dataSet ? undefined : await nestedInputs(context, { store, sources, planner }, definition, id ? [{ id, name }] : [])
      const elsewhere = await readElsewhere(context, sources, { definition, answers, today: source.clock(), calendar: catalog.calendar })
      const sights = await sources.sightsOf(context, [source.id, ...elsewhereSources(definition)])
      const { faults } = await sources.sight(context, source.id)
      const plain: RunInput = {
        name,
        sights,
        ...(faults.length ? { guardFaults: [...faults] } : {}),
        definition: withLetterhead(elsewhere?.definition ?? definition, letterhead.value ?? undefined),
        source: source.id,
        answers,
        catalog,
        catalogVersion,
        schema: source.schema,
        today: source.clock(),
        ...(version
          ? { definitionVersion: [version, letterhead.version, elsewhere?.version ?? '', ...versionsOf(nested)].join(' ').trim() }
          : {}),
        ...(elsewhere ? { elsewhere: elsewhere.rows } : {}),
        ...(nested ? { nested } : {}),
        ...(dataSet ? { dataSet } : {}),
      }
      return { ...plain, labels: await answeredLabels(context, { sources, planner }, plain) }
    }
    const refusedTries = new RefusedTries(store.audit)
    const runFolder = new RunFolder(resolve(process.env.ESTANTE_RUNS ?? join(options.folder, 'runs')))
    const runs = new RunRegistry(
      store.runs,
      runFolder,
      pool,
      {
        seesRead: (context, read, sights) => seesRead(context, sources, read, sights),
        contextOf: row => contextOfRun(row, store),
        mayGoOn: run => mayGoOn(run, store, sources),
        generations: read => sources.moments(read),
        keeping: () => store.keeping(),
      },
      store.bell,
    )
    const outbox = new Outbox(join(options.folder, 'outbox'))
    const printer = new PrinterStandIn(join(options.folder, 'printer'))
    const deliverer: Deliverer = new Deliverer(
      store.deliveries,
      runFolder,
      {
        folder: runFolder,
        addresses: new PackAddresses(store),
        folders: join(options.folder, 'delivered'),
        printer: async id => (await printersOf(store)).find(each => each.id === id)?.name,
        mailServer: () => mailServerOf(store, outbox, secrets),
        printerOf: id => printerOf(store, printer, id),
      },
      () => packs.heardOf(),
    )
    const checkedInput: Estante['checkedInput'] = async (context, name, definition, answers, { version, layout } = {}) => {
      if (layout && !definition.layouts.some(each => each.name === layout))
        throw new RunError([`“${name}” has no layout “${layout}”; it has ${definition.layouts.map(each => `“${each.name}”`).join(', ')}.`])
      const found = { ...(await input(context, name, definition, answers, version ? { version } : {})), ...(layout ? { layout } : {}) }
      const problems = await choiceProblems(context, { sources, planner }, found)
      if (problems.length) throw new RunError(problems)
      if (!definition.tieOuts?.length || !Object.keys(sightsIn(found)).length) return found
      // whether its tie-outs fail because of guards alone is seen over all records
      const all: Context = { ...ownContext, ...(context.within === undefined ? {} : { within: context.within }) }
      const whole = { ...(await input(all, name, definition, answers)), ...(layout ? { layout } : {}) }
      const held = (await pool.tieOuts(all, whole).catch(() => [])).filter(each => each.holds)
      return { ...found, heldByAll: held.map(each => each.id) }
    }
    const packs: PackRunner = new PackRunner(
      store.packRuns,
      store.deliveries,
      { store, sources, pool, planner, runs, input, checkedInput },
      runFolder,
      deliverer,
      row => contextOfRun(row, store),
      store.bell,
    )
    await runs.open([...(await store.packRuns.ids(runFolder.id))])
    await packs.open()
    deliverer.follow()
    const schedule = new Schedule(store.packs, scheduleWorld({ store, sources, pool, planner, runs, input, checkedInput }, packs))
    if (options.watch) schedule.open()
    return {
      store,
      sources,
      pool,
      planner,
      runs,
      miniatures: new Miniatures(join(options.folder, 'miniatures'), () => pool.busy()),
      input,
      checkedInput,
      runFolder,
      packs,
      schedule,
      outbox,
      printer,
      secrets,
      addFiles: (context, name, files, more) => addFiles(context, keeping, name, files, more),
      takeAgain: (context, id, files, more) => takeAgain(context, keeping, id, files, more),
      addServer: (context, name, said) => addServer(context, keeping, name, said),
      copies: {
        add: (context, name, said, progress) => addCopy(context, keeping, name, said, progress),
        refresh: (context, id, more) => refreshCopy(context, keeping, id, more),
        use: (context, id, generation) => goToGeneration(context, keeping, id, generation),
        generations: (context, id) => generationsOf(context, keeping, id),
      },
      keeping,
      within,
      watches,
      putSourceAway: async (context, id) => {
        await putSourceAway(context, keeping, id)
        if (options.watch) await watches.renew()
      },
      brought: new BroughtFiles(join(options.folder, 'intake')),
      recheck: () => runs.recheck(),
      people: store.people,
      guesses: new Guesses(),
      refusedTries,
      firstLink: new FirstLink(),
      provider: new Provider(secrets),
      demoPeople,
      comesWithDemo: plugins.length > 0,
      instance: createHash('sha256').update(resolve(options.folder)).digest('hex').slice(0, 8),
      isOwnKey: header => !!header && sameText(header, `Bearer ${lock.key}`),
      tellAddress: lock.tell,
      close: async () => {
        await watches.close()
        await schedule.close()
        await packs.close()
        await runs.close()
        deliverer.close()
        await outbox.close()
        await printer.close()
        await pool.close()
        await planner.close()
        await sources.close()
        await refusedTries.close()
        await store.close()
        lock.release()
      },
    }
  } catch (error) {
    await Promise.all([planner.close(), ...opened.map(source => source.close())])
    lock.release()
    throw error
  }
}
