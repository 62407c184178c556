import type { SourceGuards } from '../../core/guard/guards'
import { filesOf, type FolderGuards, type FolderReport, type Library } from '../../core/plain/folder'
import { renameInPack, renameNested } from '../../core/plain/names'
import type { TextFiles } from '../../core/plain/text'
import type { Context } from '../access/context'
import { mayBe } from '../access/need'
import type { Estante } from '../estante'

/** The library as whoever asks sees it: reports that they may edit, packs, the letterhead, and what is said of sources; no secrets. */
export async function libraryAt(context: Context, app: Estante): Promise<Library> {
  const { store } = app
  const shelves = await store.library(context)
  const names = new Map(shelves.flatMap(shelf => shelf.reports.map(({ id, name }) => [id, name] as const)))
  // a report that is gone, or not theirs, keeps its id
  const named = (id: string) => names.get(id) ?? id
  const own = shelves.flatMap(shelf => shelf.reports.filter(each => each.edit !== false).map(each => ({ shelf: shelf.name, ...each })))
  const wanted = own.flatMap(({ id, version, published }) => [...new Set([version, published ?? version])].map(number => ({ id, number })))
  const definitions = await store.many.definitions(wanted)
  const reports = own.map(({ id, name, shelf, version, published }): FolderReport => {
    const at = (number: number) => renameNested(definitions.get(`${id} ${number}`)!, named)
    return { name, shelf, definition: at(version), published: published === null ? false : published === version ? true : at(published) }
  })
  const packs = (await store.packs.list(context)).map(({ name, definition }) => ({ name, definition: renameInPack(definition, named) }))
  const { value: letterhead } = await store.letterhead(context)
  const sources: Record<string, Library['sources'][string]> = {}
  for (const { id } of app.sources.list())
    sources[id] = {
      settings: (await store.settings(context, id)).value,
      ...(mayBe(context, 'administrator') ? { guards: guardsIn((await store.guards(context, id)).value) } : {}),
    }
  return {
    shelves: shelves.map(({ name, release }) => ({ name, release: release === true })),
    reports,
    packs,
    ...(letterhead ? { letterhead } : {}),
    sources,
  }
}

const guardsIn = ({ guards, released, parsed }: SourceGuards): FolderGuards => ({
  guards,
  released: released.map(each => each.text),
  parsed: parsed === true,
})

/** The library as files. */
export const exportLibrary = async (context: Context, app: Estante): Promise<TextFiles> => filesOf(await libraryAt(context, app))
