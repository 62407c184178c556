import type { SourceSettings } from '../books/settings'
import type { PanelBlock } from '../definition/blocks/panel'
import type { ReportDefinition } from '../definition/report'
import type { Guard } from '../guard/guards'
import type { PackDefinition } from '../pack/definition'
import { cleanFileName, uniqueNamer } from '../parameter/fileName'
import { withoutPictures, withPictures } from './pictures'
import { TextError, type TextFiles, textOf, valueOf } from './text'

/** A report in a folder: its draft, and what readers run where that is another. */
export interface FolderReport {
  name: string
  shelf: string
  definition: ReportDefinition
  /** what readers run: the draft, nothing, or another version */
  published: true | false | ReportDefinition
}

/** What people of a source's teams see of it; texts that were released, without who did so and when. */
export interface FolderGuards {
  guards: readonly Guard[]
  released: readonly string[]
  parsed: boolean
}

/** A whole library. Reports name one another by their names. */
export interface Library {
  shelves: { name: string; release: boolean }[]
  reports: FolderReport[]
  packs: { name: string; definition: PackDefinition }[]
  letterhead?: PanelBlock
  /** by id of the source */
  sources: Readonly<Record<string, { settings: SourceSettings; /** only for those who may see them */ guards?: FolderGuards }>>
}

const folderFormat = 1
const index = 'library.yaml'
const ending = '.yaml'

interface Index {
  format: number
  shelves: { name: string; folder: string; release?: true; reports: string[] }[]
  packs: string[]
}

/** A file of a report or a pack: what it is called, and its definition. */
interface Named {
  name: string
  published?: false | 'older'
  definition: unknown
}

/** A library as the files of a folder, the same for the same library: see libraryOf. */
export function filesOf(library: Library): TextFiles {
  const files: TextFiles = new Map()
  const shelfFolder = uniqueNamer()
  const all: Index = { format: folderFormat, shelves: [], packs: [] }
  for (const { name, release } of library.shelves) {
    const folder = `reports/${shelfFolder(cleanFileName(name))}`
    const fileName = uniqueNamer()
    const own = library.reports.filter(report => report.shelf === name)
    for (const report of own) {
      const file = `${folder}/${fileName(cleanFileName(report.name))}`
      const put = (path: string, named: Named) =>
        files.set(path, textOf({ ...named, definition: withoutPictures(named.definition, `${folder}/pictures/`, files) }))
      const published = report.published === true ? {} : { published: report.published === false ? (false as const) : ('older' as const) }
      put(`${file}${ending}`, { name: report.name, ...published, definition: report.definition })
      if (typeof report.published === 'object')
        put(`${folder}/published/${file.slice(folder.length + 1)}${ending}`, { name: report.name, definition: report.published })
    }
    all.shelves.push({ name, folder, ...(release ? { release } : {}), reports: own.map(report => report.name) })
  }
  const packName = uniqueNamer()
  for (const { name, definition } of library.packs) {
    all.packs.push(name)
    files.set(`packs/${packName(cleanFileName(name))}${ending}`, textOf({ name, definition }))
  }
  if (library.letterhead) files.set(`letterhead${ending}`, textOf(withoutPictures(library.letterhead, 'pictures/', files)))
  const sourceName = uniqueNamer()
  for (const [id, own] of Object.entries(library.sources))
    files.set(`sources/${sourceName(cleanFileName(id))}${ending}`, textOf({ id, ...own }))
  files.set(index, textOf(all))
  return files
}

const isObject = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value)
const textIn = (value: unknown, part: string, path: string): string => {
  if (isObject(value) && typeof value[part] === 'string' && value[part] !== '') return value[part]
  throw new TextError(`${path} has no ${part}; write it as ${part}: …`)
}

/**
 * The library that the files of a folder hold. Files that are not named in library.yaml are reports and packs too: they come after those
 * that are. @throws TextError with the file that cannot be read
 */
export function libraryOf(files: TextFiles): Library {
  const paths = [...files.keys()].filter(path => path.endsWith(ending)).sort()
  const named = files.has(index) ? valueOf(files.get(index)!, index) : { format: folderFormat, shelves: [], packs: [] }
  if (!isObject(named) || named.format !== folderFormat)
    throw new TextError(`${index} is of another format than ${folderFormat}; take it out with a newer Estante.`)
  const listed = (part: string): Record<string, unknown>[] => (Array.isArray(named[part]) ? named[part].filter(isObject) : [])
  const shelves = listed('shelves').map(each => ({
    name: textIn(each, 'name', index),
    folder: textIn(each, 'folder', index),
    release: each.release === true,
    order: Array.isArray(each.reports) ? each.reports.map(String) : [],
  }))
  for (const path of paths) {
    const folder = /^reports\/([^/]+)\/[^/]+$/.exec(path) && path.slice(0, path.lastIndexOf('/'))
    if (folder && !shelves.some(each => each.folder === folder))
      shelves.push({ name: folder.slice('reports/'.length), folder, release: false, order: [] })
  }
  const value = (path: string) => valueOf(files.get(path)!, path)
  const byOrder = <T extends { name: string }>(list: T[], order: readonly string[]): T[] => {
    const place = (name: string) => (order.includes(name) ? order.indexOf(name) : order.length)
    return list.sort((one, other) => place(one.name) - place(other.name) || (one.name < other.name ? -1 : one.name > other.name ? 1 : 0))
  }
  const reports = shelves.flatMap(({ name: shelf, folder, order }) => {
    const own = paths.filter(path => path.startsWith(`${folder}/`) && !path.slice(folder.length + 1).includes('/'))
    const read = (path: string) => {
      const text = value(path)
      const name = textIn(text, 'name', path)
      const { definition, published } = text as { definition?: unknown; published?: unknown }
      if (!isObject(definition)) throw new TextError(`${path} has no definition; write it under definition:`)
      return { name, published, definition: withPictures(definition, `${folder}/pictures/`, files, path) as unknown as ReportDefinition }
    }
    return byOrder(
      own.map((path): FolderReport => {
        const { name, definition, published } = read(path)
        const before = `${folder}/published/${path.slice(folder.length + 1)}`
        if (published === 'older' && !files.has(before))
          throw new TextError(`${path} says that an older version is published, which is not beside it.`)
        return { name, shelf, definition, published: published === 'older' ? read(before).definition : published !== false }
      }),
      order,
    )
  })
  const packOrder = Array.isArray(named.packs) ? named.packs.map(String) : []
  const packs = byOrder(
    paths
      .filter(path => path.startsWith('packs/'))
      .map(path => {
        const text = value(path)
        return { name: textIn(text, 'name', path), definition: (text as { definition: PackDefinition }).definition }
      }),
    packOrder,
  )
  const letterhead = files.has(`letterhead${ending}`)
    ? (withPictures(value(`letterhead${ending}`), 'pictures/', files, `letterhead${ending}`) as PanelBlock)
    : undefined
  const sources = Object.fromEntries(
    paths
      .filter(path => path.startsWith('sources/'))
      .map(path => {
        const text = value(path)
        const { settings, guards } = text as { settings: SourceSettings; guards?: FolderGuards }
        return [textIn(text, 'id', path), { settings, ...(guards ? { guards } : {}) }]
      }),
  )
  const twice = reports.find((each, at) => reports.findIndex(other => other.name === each.name) !== at)
  if (twice) throw new TextError(`Two files are of the report “${twice.name}”; give one of them another name.`)
  return {
    shelves: shelves.map(({ name, release }) => ({ name, release })),
    reports,
    packs,
    ...(letterhead ? { letterhead } : {}),
    sources,
  }
}
