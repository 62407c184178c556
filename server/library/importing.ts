import { type FolderReport, libraryOf } from '../../core/plain/folder'
import { renameInPack, renameNested } from '../../core/plain/names'
import { ordered, TextError, type TextFiles } from '../../core/plain/text'
import { randomUUID } from 'node:crypto'
import { setImmediate } from 'node:timers/promises'
import type { ReportDefinition } from '../../core/definition/report'
import type { Context } from '../access/context'
import { mayBe } from '../access/need'
import type { Estante } from '../estante'
import { DefinitionError, parseDefinition, readPanel } from '../../core/definition/schema'
import { PackError, readPack } from '../../core/pack/definition'
import { readRequest, RequestError } from '../../core/api/requests'
import { keepSettings } from '../sources/keepSettings'
import { keepGuards } from '../utils/guards'
import { StoreError } from '../store/records'
import { addShelves, arrange } from './arranging'
import { libraryAt } from './exporting'

/** What an import did, by names. */
export interface Imported {
  created: string[]
  changed: string[]
  published: string[]
  /** sources whose guards were changed */
  guarded: string[]
  /** how many were the same already */
  same: number
  /** what of the folder could not be taken in here, a sentence each */
  left: string[]
}

const alike = (one: unknown, other: unknown): boolean => JSON.stringify(ordered(one)) === JSON.stringify(ordered(other))

/**
 * Takes a folder of definitions into the library: reports and packs are known by their names. What is the same stays as it is, what differs
 * becomes a new version, what is new is put on its shelf; nothing of the library goes. All is looked at before anything is changed.
 * @throws StoreError with the first file that cannot be taken in
 */
export async function importLibrary(context: Context, app: Estante, files: TextFiles): Promise<Imported> {
  const { store } = app
  const told = await read(() => libraryOf(files))
  const now = await libraryAt(context, app)
  const ids = new Map((await store.library(context)).flatMap(shelf => shelf.reports.map(each => [each.name, each] as const)))
  const coming = new Set(told.reports.map(each => each.name))
  const needed = (where: string) => (name: string) => {
    if (ids.has(name) || coming.has(name)) return name
    throw new TextError(`${where} names the report “${name}”, which is neither in the folder nor in the library; put it there.`)
  }
  await read(() => {
    for (const { name, definition, published } of told.reports) {
      renameNested(definition, needed(`“${name}”`))
      if (typeof published === 'object') renameNested(published, needed(`“${name}”`))
    }
    for (const { name, definition } of told.packs) renameInPack(readPack(definition), needed(`The pack “${name}”`))
    if (told.letterhead) readPanel(told.letterhead)
    for (const { settings, guards } of Object.values(told.sources)) {
      if (settings) readRequest('settings', { settings })
      if (guards) readRequest('guards', { ...guards, basedOn: 0 })
    }
  })
  await readAll(context, app, told.reports)
  const done: Imported = { created: [], changed: [], published: [], guarded: [], same: 0, left: [] }
  const known = new Map(now.reports.map(each => [each.name, each]))
  // reports that are new have their ids before any of them is put down: they may be nested in one another
  const fresh = new Map(told.reports.filter(each => !ids.has(each.name)).map(each => [each.name, randomUUID() as string]))
  const idOf = (name: string): string => ids.get(name)?.id ?? fresh.get(name) ?? name
  await addShelves(context, store, told)
  const made = told.reports.filter(each => fresh.has(each.name))
  await store.many.create(
    context,
    made.map(({ name, shelf, definition, published }) => ({
      id: fresh.get(name)!,
      shelf,
      name,
      definition: renameNested(typeof published === 'object' ? published : definition, idOf),
    })),
  )
  done.created.push(...made.map(each => each.name))
  for (const { name, definition, published } of told.reports) {
    const before = known.get(name)
    const mine = ids.get(name)
    if (mine && !before) {
      done.left.push(`“${name}” is somebody else’s; ask whoever made it to share it with you.`)
      continue
    }
    if (before && alike(before.definition, definition) && alike(before.published, published)) {
      done.same++
      continue
    }
    const inStore = (each: ReportDefinition) => renameNested(each, idOf)
    const id = mine?.id ?? fresh.get(name)
    let version = mine?.version ?? 1
    const put = async (each: ReportDefinition): Promise<void> => {
      version = await store.save(context, id!, version, inStore(each))
      if (!done.changed.includes(name) && !done.created.includes(name)) done.changed.push(name)
    }
    const publish = async (): Promise<void> => {
      const said = await store.publishing.publish(context, id!)
      if ('waiting' in said) done.left.push(`“${name}” waits for a second person to release it; readers run what was published before.`)
      else done.published.push(name)
    }
    if (typeof published === 'object' && !(before && alike(before.published === true ? before.definition : before.published, published))) {
      if (before) await put(published)
      await publish()
    }
    // what is new stands already, but for what comes after what is published of it
    const again = typeof published === 'object' && (!before || done.published.at(-1) === name)
    if (again || (before && !alike(before.definition, definition))) await put(definition)
    if (published === true && !(before?.published === true && alike(before.definition, definition))) await publish()
  }
  const arranged = await arrange(context, store, told)
  done.changed.push(...arranged.changed)
  done.left.push(...arranged.left)
  const packs = new Map((await store.packs.list(context)).map(each => [each.name, each]))
  for (const { name, definition } of told.packs) {
    const own = renameInPack(definition, idOf)
    const before = packs.get(name)
    if (!before) {
      await store.packs.add(context, name, own)
      done.created.push(name)
    } else if (alike(before.definition, own)) done.same++
    else {
      await store.packs.save(context, before.id, name, own, before.version)
      done.changed.push(name)
    }
  }
  if (told.letterhead && !alike(now.letterhead, told.letterhead)) {
    await store.keepLetterhead(context, readPanel(told.letterhead))
    done.changed.push('the letterhead')
  }
  for (const [id, { settings, guards }] of Object.entries(told.sources)) {
    const before = now.sources[id]
    if (!before) {
      done.left.push(`There is no source “${id}” here; what is said of it was left out.`)
      continue
    }
    if (settings && !alike(before.settings, settings)) {
      await keepSettings(context, app.sources, id, readRequest('settings', { settings }).settings, undefined)
      done.changed.push(`what is said of ${id}`)
    }
    if (guards && !mayBe(context, 'administrator')) done.left.push(`The guards of “${id}” are for administrators; they were left out.`)
    else if (guards && !alike(before.guards, guards)) {
      const { version: basedOn } = await store.guards(context, id)
      const { released, parsed, guards: own } = readRequest('guards', { ...guards, basedOn })
      await keepGuards(context, app, id, { guards: own, released, parsed, basedOn })
      await app.recheck()
      done.guarded.push(id)
    }
  }
  return done
}

/** @throws StoreError for what is wrong in a text */
async function read<T>(work: () => T): Promise<T> {
  try {
    return await Promise.resolve(work())
  } catch (error) {
    throw error instanceof TextError || error instanceof RequestError || error instanceof PackError || error instanceof DefinitionError
      ? new StoreError(error.message, 400)
      : error
  }
}

/**
 * Reads the definitions of reports, each as the newest format has it: beside this thread and, between other work, in it.
 * @throws StoreError with the first that cannot be read, in their order
 */
async function readAll(context: Context, app: Estante, list: readonly FolderReport[]): Promise<void> {
  const faults: (StoreError | undefined)[] = []
  let [next, last] = [0, list.length - 1]
  const readOne = async (at: number, readAs: (text: string) => Promise<ReportDefinition>): Promise<void> => {
    const report = list[at]!
    try {
      report.definition = await readAs(JSON.stringify(report.definition))
      if (typeof report.published === 'object') report.published = await readAs(JSON.stringify(report.published))
    } catch (error) {
      faults[at] = new StoreError(`“${report.name}”: ${(error as Error).message}`, 400)
    }
  }
  const beside = async (): Promise<void> => {
    while (next <= last) await readOne(next++, text => app.planner.parse(context, text))
  }
  const here = async (): Promise<void> => {
    while (next <= last) {
      await readOne(last--, async text => parseDefinition(text))
      await setImmediate()
    }
  }
  await Promise.all([beside(), here()])
  const first = faults.find(Boolean)
  if (first) throw first
}
