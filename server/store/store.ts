import { type Context, ownContext } from '../access/context'
import { mayBe, need } from '../access/need'
import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import { and, asc, desc, eq, isNotNull, isNull, or, sql } from 'drizzle-orm'
import { drizzle as drizzlePg } from 'drizzle-orm/node-postgres'
import { migrate as migratePg } from 'drizzle-orm/node-postgres/migrator'
import { drizzle as drizzleLite } from 'drizzle-orm/pglite'
import { migrate as migrateLite } from 'drizzle-orm/pglite/migrator'
import { Pool } from 'pg'
import { WorkBell } from './bell'
import { LRUCache } from 'lru-cache'
import { callNested } from '../../core/definition/edits/nested'
import { readDefinition } from '../../core/definition/schema'
import { suggestion } from '../../core/value/suggestion'
import type { Database } from './database'
import { Audit } from '../access/audit'
import { DemoPeople } from '../access/demoPeople'
import { People } from '../access/people'
import { mayReport, mayShelf, type ReportRight } from '../access/reports'
import type { ProviderSettings } from '../access/provider'
import { SecondFactor } from '../access/secondFactor'
import { Remembered } from '../access/remembered'
import { Sessions } from '../access/sessions'
import type { Secrets } from './secrets'
import { Teams } from '../access/teams'
import { Tokens } from '../access/tokens'
import { Addresses } from './addresses'
import { Beside } from './beside'
import { Publishing } from './publishing'
import { CompanySettings } from './companySettings'
import { DeliveryRows } from './deliveryRows'
import { PackRows } from './packRows'
import { PackRunRows } from './packRunRows'
import { RunRows } from './runRows'
import { ManyReports } from './manyReports'
import { shelfNamed } from './shelfNamed'
import { Shelving } from './shelving'
import { type Keeping, usualKeeping } from '../../core/api/runs'
import { noGuards, type SourceGuards } from '../../core/guard/guards'
import { noSettings, type SourceSettings } from '../../core/books/settings'
import type { Catalog } from '../../core/books/catalog'
import type { PanelBlock } from '../../core/definition/blocks/panel'
import type { PackDefinition } from '../../core/pack/definition'
import type { ReportDefinition } from '../../core/definition/report'
import { projectRoot } from '../root'
import { LiteStore } from './lite'
import * as tables from './schema'
import type { LibraryShelf } from '../../core/api/answers'
import { ConflictError, StoreError, type ReportRecord, type VersionInfo, type Connection } from './records'

const { shelves, reports, versions, sources, connections, settings, pinnedRows, publications } = tables

/** The sources that a report reads, as one text. */
const sourcesOf = (definition: ReportDefinition | undefined) => definition?.dataSets.map(set => set.source).join('\n')

/** Key of the lock under which a store on a server is brought up to date. */
const startLock = 7_301_985

/** Did a change find no room on the disk? */
function isFull(error: unknown): boolean {
  const { code, message, cause } = (error ?? {}) as { code?: string; message?: string; cause?: unknown }
  return code === '53100' || code === 'ENOSPC' || /No space left on device/.test(message ?? '') || (cause !== undefined && isFull(cause))
}

const notShared = (name: string) =>
  new StoreError(`“${name}” is not shared with you for editing; ask whoever made it, or an administrator of Estante.`, 403)

const noKey = (): never => {
  throw new StoreError('There is no key to keep secrets with; open the data folder.', 500)
}
const providerId = 'provider'
const keepingId = 'runs kept'
const letterheadId = 'letterhead'
const offeredId = 'offered reports'
const offeredPacksId = 'offered packs'
const guardsId = (source: string) => `guards ${source}`
const sourceSettingsId = (source: string) => `source ${source}`

/** Checks a definition that is kept or was. @throws DefinitionError */
export type CheckDefinition = (value: unknown) => Promise<ReportDefinition>

/** Estante's own data: shelves, reports and every version of them. */
export class Store {
  private constructor(
    private readonly db: Database,
    private readonly own: { lite: LiteStore } | { pool: Pool },
    readonly check: CheckDefinition,
  ) {
    this.bell = new WorkBell('pool' in own ? own.pool : undefined)
  }

  /** By which secrets are sealed: whoever opens the store says it before any is asked for. */
  secrets: Pick<Secrets, 'seal' | 'open'> = { seal: noKey, open: noKey }

  /** Versions as they were read: they never change. */
  private readonly known = new LRUCache<string, ReportDefinition>({ max: 64 })

  /** Many reports at a time. */
  readonly many = new ManyReports(
    () => this.db,
    change => this.saved(change),
    value => this.check(value),
  )
  /** The order of the library: shelves, names, copies, what is put away and comes back. */
  readonly shelving = new Shelving(
    () => this.db,
    change => this.saved(change),
  )

  /** What was read of people's rights: a folder's store is changed by nobody else. */
  private readonly rights = new Remembered(() => 'lite' in this.own)

  /** Who can sign in, and where they are. */
  readonly people = new People(
    () => this.db,
    change => this.rights.changing(() => this.saved(change)),
    new Sessions(
      () => this.db,
      change => this.rights.changing(() => this.saved(change)),
      Date.now,
      this.rights,
    ),
    new Tokens(
      () => this.db,
      change => this.rights.changing(() => this.saved(change)),
      Date.now,
      this.rights,
    ),
    new SecondFactor(
      () => this.db,
      change => this.rights.changing(() => this.saved(change)),
      () => this.secrets,
    ),
  )

  /** Invented people, for a folder that came with a demo. */
  readonly demoPeople = new DemoPeople(
    () => this.db,
    this.people.sessions,
    (source, guards) => this.saveGuards(ownContext, source, guards),
  )

  /** Which people are told apart, and by what. */
  readonly teams = new Teams(
    () => this.db,
    change => this.rights.changing(() => this.saved(change)),
  )

  /** What is published, to whom, and by whom. */
  readonly publishing = new Publishing(
    () => this.db,
    change => this.saved(change),
    (context, id, number) => this.version(context, id, number),
  )

  /** Addresses for spreadsheets. */
  readonly addresses = new Addresses(
    () => this.db,
    change => this.saved(change),
    (context, report) => this.needReport(context, report, 'edit'),
  )

  /** Pinned rows and kept answers. */
  readonly beside = new Beside(
    () => this.db,
    change => this.saved(change),
  )

  /** What holds for the whole company. */
  readonly company = new CompanySettings(
    id => this.said(id),
    (id, value, basedOn, what) => this.say(id, value, basedOn, what),
  )

  /** Tells other programs on the same store that there is work. */
  readonly bell: WorkBell

  /** Packs of reports. */
  readonly packs = new PackRows(
    () => this.db,
    change => this.saved(change),
  )

  /** Runs of packs. */
  readonly packRuns = new PackRunRows(
    () => this.db,
    change => this.saved(change),
  )

  /** What goes out of runs of packs. */
  readonly deliveries = new DeliveryRows(
    () => this.db,
    change => this.saved(change),
  )

  /** Runs that were asked for, and what they came to. */
  readonly runs = new RunRows(
    () => this.db,
    change => this.saved(change),
  )

  /** What was done by whom. */
  readonly audit = new Audit(
    () => this.db,
    change => this.saved(change),
  )

  /** What had to be done to open it, in sentences. */
  get notes(): readonly string[] {
    return 'lite' in this.own ? this.own.lite.notes : []
  }

  /** Runs a change; a disk that is full becomes a sentence (53100 is PostgreSQL's disk_full). */
  private async saved<T>(change: () => Promise<T>): Promise<T> {
    try {
      if ('lite' in this.own) this.own.lite.needRoom()
      return await change()
    } catch (error) {
      if (isFull(error))
        throw new StoreError(
          'The disk of the data folder is full; nothing was saved. Free some space and save again: your changes are still here.',
          507,
        )
      throw error
    }
  }

  /** Opens the store in a data folder, or in a PostgreSQL server where an address is given, and brings its tables up to date. */
  static async open(
    options: { folder: string } | { url: string },
    check: CheckDefinition = async value => readDefinition(value),
  ): Promise<Store> {
    const migrationsFolder = join(projectRoot(), 'server', 'store', 'migrations')
    if ('url' in options) {
      const pool = new Pool({ connectionString: options.url, max: 6 })
      // a connection that the server ends while nobody uses it is opened again by the next who needs one
      pool.on('error', () => {})
      const store = new Store(drizzlePg(pool, { schema: tables }), { pool }, check)
      await store.alone(async () => {
        await migratePg(drizzlePg(pool), { migrationsFolder })
      })
      return store
    }
    const lite = new LiteStore(options.folder)
    await lite.open(db => migrateLite(drizzleLite({ client: db, schema: tables }), { migrationsFolder }))
    return new Store(drizzleLite({ client: lite.client(), schema: tables }) as unknown as Database, { lite }, check)
  }

  /** Work that only one Estante at a time does with a store on a server: others that start beside it wait. */
  private async alone<T>(work: () => Promise<T>): Promise<T> {
    if ('lite' in this.own) return work()
    const held = await this.own.pool.connect()
    try {
      await held.query('select pg_advisory_lock($1)', [startLock])
      return await work()
    } finally {
      await held.query('select pg_advisory_unlock($1)', [startLock]).catch(() => {})
      held.release()
    }
  }

  async close(): Promise<void> {
    this.bell.close()
    await ('lite' in this.own ? this.own.lite.close() : this.own.pool.end())
  }

  /** All shelves with their reports; readers see what is published, and the shelves of that. */
  async library(context: Context): Promise<LibraryShelf[]> {
    const rows = await this.db
      .select({
        shelfId: shelves.id,
        shelf: shelves.name,
        id: reports.id,
        name: reports.name,
        version: reports.draft,
        published: reports.published,
        edit: sql<boolean>`coalesce(${mayReport(context, 'edit') ?? sql`true`}, false)`,
        team: shelves.teamId,
        release: shelves.release,
        waiting: sql<number | null>`(select p.version from ${publications} as p where p.report_id = ${reports.id} and p.state = 'waiting')`,
      })
      .from(shelves)
      .leftJoin(reports, and(eq(reports.shelfId, shelves.id), isNull(reports.removedAt), mayReport(context, 'run')))
      .where(or(mayShelf(context) ?? sql`true`, isNotNull(reports.id)))
      .orderBy(asc(shelves.place), asc(reports.place))
    const found: LibraryShelf[] = []
    for (const row of rows) {
      if (found.at(-1)?.id !== row.shelfId)
        found.push({
          id: row.shelfId,
          name: row.shelf,
          ...(row.team ? { team: row.team } : {}),
          ...(row.release ? { release: true } : {}),
          reports: [],
        })
      const { id, name, published, edit, waiting } = row
      // who only runs a report knows of no draft
      if (id)
        found
          .at(-1)!
          .reports.push({
            id,
            name: name!,
            version: edit ? row.version! : published!,
            published,
            ...(edit ? {} : { edit: false }),
            ...(edit && waiting !== null ? { waiting } : {}),
          })
    }
    return mayBe(context, 'author') ? found : found.filter(shelf => shelf.reports.length)
  }

  /** The draft of a report by its id, without its definition; nothing where there is none. */
  async draft(context: Context, id: string): Promise<{ id: string; name: string; version: number } | undefined> {
    const [row] = await this.db
      .select({ id: reports.id, name: reports.name, version: reports.draft })
      .from(reports)
      .innerJoin(shelves, eq(reports.shelfId, shelves.id))
      .where(and(eq(reports.id, id), isNull(reports.removedAt), mayReport(context, 'edit')))
    return row
  }

  /**
   * Lets whoever asks do something with a report, put away or not, by its id or name; all that a route names by its address comes by here.
   * @throws StoreError where it is not theirs: as if it were not there, or where they may run it only, saying so
   */
  async needReport(context: Context, idOrName: string, right: ReportRight): Promise<void> {
    if (!mayReport(context, right)) return
    const named = sql`(${reports.id} = ${idOrName} or ${reports.name} = ${idOrName})`
    const [row] = await this.db
      .select({ theirs: sql<boolean>`coalesce(${mayReport(context, right)!}, false)`, name: reports.name })
      .from(reports)
      .innerJoin(shelves, eq(reports.shelfId, shelves.id))
      .where(and(named, mayReport(context, 'run')))
    if (row?.theirs) return
    if (row) throw notShared(row.name)
    throw new StoreError(`There is no report “${idOrName}”.`, 404)
  }

  /** A report by id or by name, as authors see it (`draft`) or as readers run it (`published`). @throws StoreError */
  async report(context: Context, idOrName: string, which: 'draft' | 'published' = 'draft'): Promise<ReportRecord> {
    if (which === 'draft') need(context, 'author')
    // what is not theirs is not there
    const seen = mayReport(context, 'run')
    const [row] = await this.db
      .select({ report: reports, shelf: shelves.name, edit: sql<boolean>`coalesce(${mayReport(context, 'edit') ?? sql`true`}, false)` })
      .from(reports)
      .innerJoin(shelves, eq(reports.shelfId, shelves.id))
      .where(and(sql`(${reports.id} = ${idOrName} or ${reports.name} = ${idOrName})`, isNull(reports.removedAt), seen))
    if (!row) {
      const names = (
        await this.db
          .select({ name: reports.name })
          .from(reports)
          .innerJoin(shelves, eq(reports.shelfId, shelves.id))
          .where(and(isNull(reports.removedAt), seen))
          .orderBy(asc(reports.name))
      ).map(each => each.name)
      const near = suggestion(idOrName, names)
      throw new StoreError(
        `There is no report “${idOrName}”${
          near ||
          (names.length
            ? `; there are ${names
                .slice(0, 5)
                .map(name => `“${name}”`)
                .join(', ')}${names.length > 5 ? ` and ${names.length - 5} more` : ''}`
            : '')
        }.`,
        404,
      )
    }
    const { report } = row
    if (which === 'draft' && !row.edit) throw notShared(report.name)
    if (which === 'published' && report.published === null)
      throw new StoreError(`“${report.name}” has not been published yet; its author can publish it.`, 404)
    const number = which === 'published' ? report.published! : report.draft
    return {
      id: report.id,
      name: report.name,
      shelf: row.shelf,
      version: number,
      published: report.published,
      ...(row.edit ? {} : { edit: false }),
      definition: await this.version(context, report.id, number),
    }
  }

  async version(_: Context, reportId: string, number: number): Promise<ReportDefinition> {
    const key = `${reportId} ${number}`
    const known = this.known.get(key)
    if (known) return known
    const [row] = await this.db
      .select()
      .from(versions)
      .where(and(eq(versions.reportId, reportId), eq(versions.number, number)))
    if (!row) throw new StoreError(`There is no version ${number} of this report.`, 404)
    const definition = await this.check(row.definition)
    this.known.set(key, definition)
    return definition
  }

  /** The last versions of a report, the newest first, and all that have a name. */
  async versions(_: Context, reportId: string, most = 40): Promise<VersionInfo[]> {
    const columns = { number: versions.number, name: versions.name, state: versions.state, savedAt: versions.savedAt }
    const of = eq(versions.reportId, reportId)
    const [last, named] = [
      await this.db.select(columns).from(versions).where(of).orderBy(desc(versions.number)).limit(most),
      await this.db
        .select(columns)
        .from(versions)
        .where(and(of, sql`${versions.name} is not null`))
        .orderBy(desc(versions.number)),
    ]
    return [...last, ...named.filter(each => !last.some(other => other.number === each.number))]
  }

  /** Gives a version a name; an empty one takes it away. */
  async nameVersion(_: Context, reportId: string, number: number, name: string): Promise<void> {
    const [row] = await this.saved(() =>
      this.db
        .update(versions)
        .set({ name: name.trim() || null })
        .where(and(eq(versions.reportId, reportId), eq(versions.number, number)))
        .returning({ number: versions.number }),
    )
    if (!row) throw new StoreError(`There is no version ${number} of this report.`, 404)
  }

  /** What is said once for all reports or for all of a source, with its version: 0 where nothing was said yet. */
  private async said<T>(id: string): Promise<{ value: T | undefined; version: number }> {
    const [row] = await this.db.select().from(settings).where(eq(settings.id, id))
    return row ? { value: row.value as T, version: row.version } : { value: undefined, version: 0 }
  }

  /**
   * Says it anew, on the version that was seen; without one, whatever it was.
   * @throws StoreError where somebody else has said something in the meantime: theirs stays, and it is told
   */
  private async say(id: string, value: unknown, basedOn: number | undefined, what: string): Promise<number> {
    return this.saved(() =>
      this.db.transaction(async change => {
        await change.insert(settings).values({ id, version: 0, value: {} }).onConflictDoNothing()
        const [row] = await change.select({ version: settings.version }).from(settings).where(eq(settings.id, id)).for('update')
        if (basedOn !== undefined && row!.version !== basedOn)
          throw new StoreError(
            `Somebody else changed ${what} in the meantime; theirs is kept. Open it again and make your change once more.`,
            409,
          )
        const version = row!.version + 1
        await change.update(settings).set({ version, value }).where(eq(settings.id, id))
        return version
      }),
    )
  }

  /** The letterhead that all reports share; none until somebody keeps one. */
  letterhead(_: Context): Promise<{ value: PanelBlock | undefined; version: number }> {
    return this.said<PanelBlock>(letterheadId)
  }

  /** @throws StoreError where it was changed since `basedOn` */
  keepLetterhead(_: Context, panel: PanelBlock, basedOn?: number): Promise<number> {
    return this.say(letterheadId, panel, basedOn, 'the letterhead')
  }

  /** Puts a new report on a shelf, published as its first version where asked. A name that is taken gets a number. */
  async create(
    context: Context,
    shelfName: string,
    name: string,
    definition: ReportDefinition,
    published: boolean,
    id: string = randomUUID(),
  ): Promise<string> {
    const checked = await this.check(definition)
    await this.saved(() =>
      this.db.transaction(async change => {
        const shelf = await shelfNamed(change as unknown as Database, context, shelfName)
        const taken = new Set((await change.select({ name: reports.name }).from(reports)).map(each => each.name))
        let free = name
        for (let count = 2; taken.has(free); count++) free = `${name} ${count}`
        await change
          .insert(reports)
          .values({
            id,
            name: free,
            shelfId: shelf.id,
            place: taken.size + 1,
            draft: 1,
            published: published ? 1 : null,
            ownerId: context.signedIn?.id ?? null,
          })
        await change.insert(versions).values({ reportId: id, number: 1, basedOn: null, state: 'saved', definition: checked })
      }),
    )
    return id
  }

  /**
   * Saves a draft as a new version.
   * @throws ConflictError where the draft has moved on since `basedOn`; the definition is kept all the same
   */
  async save(_: Context, reportId: string, basedOn: number, definition: ReportDefinition): Promise<number> {
    const checked = await this.check(definition)
    const outcome = await this.saved(() =>
      this.db.transaction(async change => {
        const [report] = await change
          .select()
          .from(reports)
          .where(and(eq(reports.id, reportId), isNull(reports.removedAt)))
          .for('update')
        if (!report) throw new StoreError('This report is not in the library any more; export your changes to keep them.', 404)
        const [last] = await change
          .select({ number: versions.number })
          .from(versions)
          .where(eq(versions.reportId, reportId))
          .orderBy(desc(versions.number))
          .limit(1)
        const number = (last?.number ?? 0) + 1
        const conflict = report.draft !== basedOn
        await change.insert(versions).values({ reportId, number, basedOn, state: conflict ? 'conflict' : 'saved', definition: checked })
        if (!conflict) {
          await change.update(reports).set({ draft: number }).where(eq(reports.id, reportId))
          // rows of another source are not shown as if they were of this one
          const [before] = await change
            .select({ definition: versions.definition })
            .from(versions)
            .where(and(eq(versions.reportId, reportId), eq(versions.number, report.draft)))
          if (sourcesOf(before?.definition as ReportDefinition | undefined) !== sourcesOf(checked))
            await change.delete(pinnedRows).where(eq(pinnedRows.reportId, reportId))
        }
        return { number, current: report.draft, conflict }
      }),
    )
    if (outcome.conflict) throw new ConflictError(outcome.current, outcome.number)
    return outcome.number
  }

  /** What is kept with a source. */
  async settings(_: Context, source: string): Promise<{ value: SourceSettings; version: number }> {
    const { value, version } = await this.said<SourceSettings>(sourceSettingsId(source))
    return { value: value ?? noSettings, version }
  }

  /** @throws StoreError where it was changed since `basedOn` */
  saveSettings(_: Context, source: string, value: SourceSettings, basedOn?: number): Promise<number> {
    return this.say(sourceSettingsId(source), value, basedOn, 'the settings of this source')
  }

  /** Who signs people in for us; nobody where none is said. */
  async provider(_: Context): Promise<{ value: ProviderSettings | undefined; version: number }> {
    const { value, version } = await this.rights.read(providerId, () => this.said<Partial<ProviderSettings>>(providerId))
    return { value: value?.issuer ? (value as ProviderSettings) : undefined, version }
  }

  /** @throws StoreError where it was changed since `basedOn` */
  saveProvider(_: Context, value: ProviderSettings | null, basedOn?: number): Promise<number> {
    return this.rights.changing(() => this.say(providerId, value ?? {}, basedOn, 'who signs people in'))
  }

  /** How long runs are kept. */
  async keeping(): Promise<Keeping> {
    const { value, version } = await this.said<Partial<Keeping>>(keepingId)
    return { ...usualKeeping, ...value, version }
  }

  /** @throws StoreError where it was changed since `basedOn` */
  saveKeeping(_: Context, { runs, days }: Pick<Keeping, 'runs' | 'days'>, basedOn?: number): Promise<number> {
    return this.say(keepingId, { runs, days }, basedOn, 'how long runs are kept')
  }

  /** What teams see of a source. */
  async guards(_: Context, source: string): Promise<{ value: SourceGuards; version: number }> {
    const { value, version } = await this.rights.read(`guards ${source}`, () => this.said<SourceGuards>(guardsId(source)))
    return { value: { ...noGuards, ...value }, version }
  }

  /** @throws StoreError where they were changed since `basedOn` */
  saveGuards(_: Context, source: string, value: SourceGuards, basedOn?: number): Promise<number> {
    return this.rights.changing(() => this.say(guardsId(source), value, basedOn, 'the guards of this source'))
  }

  /** The sources that people have added, in their order. */
  async connections(_: Context): Promise<Connection[]> {
    const rows = await this.db.select().from(connections).orderBy(asc(connections.place))
    return rows.map(({ id, name, kind, options }) => ({ id, name, kind, options: options as Connection['options'] }))
  }

  /** Keeps a source that was added. */
  async connect(_: Context, connection: Connection): Promise<void> {
    await this.saved(() =>
      this.db.transaction(async change => {
        const [last] = await change.select({ place: connections.place }).from(connections).orderBy(desc(connections.place)).limit(1)
        await change.insert(connections).values({ ...connection, place: (last?.place ?? 0) + 1 })
      }),
    )
  }

  /** What is kept of a source that was added is another now, and maybe its name. */
  async reconnect(_: Context, id: string, options: object, name?: string): Promise<void> {
    await this.saved(() =>
      this.db
        .update(connections)
        .set({ options, ...(name === undefined ? {} : { name }) })
        .where(eq(connections.id, id)),
    )
  }

  /** Lets go of a source that was added, with all that is kept with it. */
  async disconnect(_: Context, id: string): Promise<void> {
    await this.saved(() =>
      this.db.transaction(async change => {
        await change.delete(connections).where(eq(connections.id, id))
        await change.delete(sources).where(eq(sources.id, id))
        await change.delete(settings).where(eq(settings.id, sourceSettingsId(id)))
      }),
    )
  }

  /** The catalog of a source as it was last read. */
  async lastCatalog(_: Context, source: string): Promise<Catalog | undefined> {
    const [row] = await this.db.select({ catalog: sources.catalog }).from(sources).where(eq(sources.id, source))
    return (row?.catalog as Catalog | undefined) ?? undefined
  }

  async keepCatalog(_: Context, source: string, catalog: Catalog): Promise<void> {
    await this.saved(() =>
      this.db.insert(sources).values({ id: source, catalog }).onConflictDoUpdate({ target: sources.id, set: { catalog } }),
    )
  }

  /** Reports that the program brings: each is put on its shelf once; one that was put away stays away. */
  offer(context: Context, list: readonly { shelf: string; name: string; definition: ReportDefinition }[]): Promise<void> {
    return this.alone(() => this.offered(context, list))
  }

  private async offered(context: Context, list: readonly { shelf: string; name: string; definition: ReportDefinition }[]): Promise<void> {
    const { value, version } = await this.said<string[]>(offeredId)
    const offered = new Set([...(value ?? []), ...(await this.db.select({ name: reports.name }).from(reports)).map(each => each.name)])
    const fresh = list.filter(each => !offered.has(each.name))
    const ids = new Map((await this.db.select({ id: reports.id, name: reports.name }).from(reports)).map(each => [each.name, each.id]))
    // what is nested in one of them is called by its name there, and by its id from now on
    for (const { shelf, name, definition } of fresh)
      ids.set(
        name,
        await this.create(
          context,
          shelf,
          name,
          callNested(definition, called => ids.get(called)),
          true,
        ),
      )
    if (fresh.length || !version) await this.say(offeredId, [...new Set([...offered, ...list.map(each => each.name)])], undefined, '')
  }

  /** Packs that the program brings: each is there once; one that was deleted stays away. */
  offerPacks(context: Context, list: readonly { name: string; definition: PackDefinition }[]): Promise<void> {
    return this.alone(async () => {
      const { value } = await this.said<string[]>(offeredPacksId)
      const fresh = list.filter(each => !value?.includes(each.name))
      if (!fresh.length) return
      const ids = new Map((await this.db.select({ id: reports.id, name: reports.name }).from(reports)).map(each => [each.name, each.id]))
      const there = new Set((await this.packs.list(context)).map(each => each.name))
      for (const { name, definition } of fresh) {
        const own = definition.reports.map(each => ({ ...each, report: ids.get(each.report) ?? '' }))
        // one whose reports were deleted is not there either
        if (!there.has(name) && own.every(each => each.report)) await this.packs.add(context, name, { ...definition, reports: own })
      }
      await this.say(offeredPacksId, [...new Set([...(value ?? []), ...list.map(each => each.name)])], undefined, '')
    })
  }

  /** Puts a report away for good. */
  async remove(_: Context, reportId: string): Promise<void> {
    await this.saved(() => this.db.delete(reports).where(eq(reports.id, reportId)))
  }
}
