import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { ReportDefinition } from '../core/definition/report'
import { cleanFileName, uniqueNamer } from '../core/parameter/fileName'
import { type InCommon, type Listed, type Step, stepsBetween } from '../core/plain/bound'
import { withoutPictures, withPictures } from '../core/plain/pictures'
import { TextError, type TextFiles, textOf, valueOf } from '../core/plain/text'
import { named, onShelf, type ShelfSide } from './shelfSide'
import { UsageError } from './usage'

const state = '.estante.json'
const pictures = 'pictures/'
const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')

/** What was done, in a few words with names; or what could not be done, as a sentence. */
export type Told = { [what in 'saved' | 'created' | 'written' | 'removed']?: string } & {
  version?: number
  keptAs?: number
  problem?: string
}

interface Kept {
  common: InCommon[]
  left: [id: string, version: number][]
}

/** @throws UsageError where it is not as it was written */
function keptIn(file: string): Kept {
  try {
    const { common, left } = JSON.parse(readFileSync(file, 'utf8')) as Kept
    if (Array.isArray(common) && Array.isArray(left)) return { common, left }
  } catch {
    // said below
  }
  throw new UsageError(`${file} cannot be read; take it away, and the folder is matched with its shelf by the names of reports.`)
}

/** A folder whose files are the reports of a shelf. What both had in common is kept in a file of the folder. */
export class BoundFolder {
  private readonly kept: Kept
  private stored = ''
  /** texts that could not be taken in, so that each is told once */
  private readonly told = new Map<string, string>()

  constructor(
    private readonly folder: string,
    private readonly shelf: string,
    private readonly side: ShelfSide,
  ) {
    mkdirSync(folder, { recursive: true })
    const file = join(folder, state)
    this.kept = existsSync(file) ? keptIn(file) : { common: [], left: [] }
  }

  /** Makes folder and shelf the same; tells what was done. */
  async match(tell: (told: Told) => void): Promise<void> {
    const { listed, names } = onShelf(await this.side.library(), this.shelf)
    const files = this.files()
    await this.meet(listed, names, files)
    const steps = stepsBetween(this.kept.common, listed, files, new Map(this.kept.left))
    for (const step of steps) {
      const file = 'file' in step ? step.file : undefined
      const hash = file === undefined ? '' : (files.get(file) ?? '')
      if (file !== undefined && step.do !== 'write' && this.told.get(file) === hash) continue
      try {
        await this.take(step, listed, names, tell, hash || undefined)
      } catch (error) {
        if (file !== undefined) this.told.set(file, hash)
        tell({ problem: `${file === undefined ? '' : `${file}: `}${(error as Error).message}` })
      }
    }
    const text = `${JSON.stringify(this.kept, null, 1)}\n`
    if (text !== this.stored) writeFileSync(join(this.folder, state), text)
    this.stored = text
  }

  /** Files of reports, by what is in them. */
  private files(): Map<string, string> {
    const names = readdirSync(this.folder).filter(name => name.endsWith('.yaml') && !name.startsWith('.'))
    return new Map(names.sort().map(name => [name, hashOf(readFileSync(join(this.folder, name)))]))
  }

  /** Reports and files of one name that have never met are the same report: as one where they are, else each is kept. */
  private async meet(listed: readonly Listed[], names: ReadonlyMap<string, string>, files: ReadonlyMap<string, string>): Promise<void> {
    const { common } = this.kept
    const free = [...files].filter(([file]) => !common.some(each => each.file === file))
    for (const { id, name, version } of listed) {
      if (common.some(each => each.id === id)) continue
      const found = free.find(([file]) => this.nameIn(file) === name)
      if (!found) continue
      const { bytes } = this.textOf(name, named((await this.side.report(id)).definition, names))
      const same = hashOf(bytes) === found[1]
      common.push({ id, file: found[0], name, text: same ? found[1] : '', version: same ? version : 0 })
    }
  }

  private nameIn(file: string): string | undefined {
    try {
      return (valueOf(readFileSync(join(this.folder, file)), file) as { name?: string } | null)?.name
    } catch {
      return undefined
    }
  }

  private textOf(name: string, definition: ReportDefinition): { bytes: Uint8Array; beside: TextFiles } {
    const beside: TextFiles = new Map()
    return { bytes: textOf({ name, definition: withoutPictures(definition, pictures, beside) }), beside }
  }

  /** A report as its file has it, with other reports by their ids. @throws TextError */
  private read(file: string, names: ReadonlyMap<string, string>): { name: string; definition: ReportDefinition; hash: string } {
    const bytes = readFileSync(join(this.folder, file))
    const text = valueOf(bytes, file) as { name?: unknown; definition?: unknown } | null
    if (typeof text?.name !== 'string' || !text.name) throw new TextError('it has no name; write it as name: …')
    if (typeof text.definition !== 'object') throw new TextError('it has no definition; write it under definition:')
    const beside: TextFiles = new Map(
      existsSync(join(this.folder, pictures))
        ? readdirSync(join(this.folder, pictures)).map(name => [`${pictures}${name}`, readFileSync(join(this.folder, pictures, name))])
        : [],
    )
    const definition = withPictures(text.definition, pictures, beside, file) as ReportDefinition
    return { name: text.name, definition: named(definition, new Map([...names].map(([id, name]) => [name, id]))), hash: hashOf(bytes) }
  }

  private async take(
    step: Step,
    listed: readonly Listed[],
    names: Map<string, string>,
    tell: (told: Told) => void,
    seen?: string,
  ): Promise<void> {
    const { common } = this.kept
    const forget = (id: string) => void (this.kept.common = this.kept.common.filter(each => each.id !== id))
    switch (step.do) {
      case 'forget': {
        const before = common.find(each => each.id === step.id)
        forget(step.id)
        if (before) this.kept.left.push([step.id, before.version])
        return
      }
      case 'remove':
        rmSync(join(this.folder, step.file), { force: true })
        forget(step.id)
        return tell({ removed: step.file })
      case 'write': {
        const told = await this.write(step.id, step.file, names, seen)
        if (told.written) tell(told)
        return
      }
      case 'create': {
        const { name, definition, hash } = this.read(step.file, names)
        const id = await this.side.create(name, this.shelf, definition)
        names.set(id, name)
        const { version } = await this.side.report(id)
        common.push({ id, file: step.file, name, text: hash, version })
        return tell({ created: name })
      }
      case 'save': {
        const { name, definition, hash } = this.read(step.file, names)
        const before = listed.find(each => each.id === step.id)!
        // a name that another has is told before anything is saved
        if (name !== before.name) await this.side.rename(step.id, name)
        names.set(step.id, name)
        const saved = await this.side.save(step.id, step.basedOn, definition)
        if ('keptAs' in saved) {
          // the library has gone on: it stands in the folder from now on, and what stood there is a version beside it
          await this.write(step.id, step.file, names, hash)
          return tell({ saved: name, keptAs: saved.keptAs })
        }
        Object.assign(
          common.find(each => each.id === step.id)!,
          { text: hash, name, version: saved.version },
        )
        return tell({ saved: name, version: saved.version })
      }
    }
  }

  /** The report as the library has it, into its file. */
  private async write(id: string, asked: string | undefined, names: ReadonlyMap<string, string>, seen?: string): Promise<Told> {
    const { version, definition } = await this.side.report(id)
    const name = names.get(id)!
    const free = uniqueNamer()
    // a file that is there already is somebody's, whatever stands in it
    for (const each of readdirSync(this.folder)) free(each.replace(/\.yaml$/, ''))
    const file = asked ?? `${free(cleanFileName(name))}.yaml`
    const now = join(this.folder, file)
    // what was written while we looked is taken in at the next look
    if (existsSync(now) && hashOf(readFileSync(now)) !== seen) return {}
    const { bytes, beside } = this.textOf(name, named(definition, names))
    for (const [path, own] of [...beside, [file, bytes] as const]) {
      mkdirSync(dirname(join(this.folder, path)), { recursive: true })
      writeFileSync(join(this.folder, path), own)
    }
    this.kept.left = this.kept.left.filter(each => each[0] !== id)
    this.kept.common = [...this.kept.common.filter(each => each.id !== id), { id, file, name, text: hashOf(bytes), version }]
    return { written: file, version }
  }
}
