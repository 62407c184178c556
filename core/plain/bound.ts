/** A report as a folder and the library had it in common when they were last the same. */
export interface InCommon {
  id: string
  /** name of its file, and what stood in it */
  file: string
  text: string
  name: string
  /** the version of the library that this was */
  version: number
}

/** A report of the library as it is now. */
export interface Listed {
  id: string
  name: string
  version: number
}

/**
 * What makes a folder and a shelf the same again:
 * - save: the file has changed; it becomes a version based on what was in common, which is a conflict where the library has gone on
 * - create: the file is new
 * - write: the library has gone on, or has what the folder never had
 * - remove: the report is put away, and nothing has been done to its file
 * - forget: the file is gone; the library keeps its report, and writes it no more until it changes
 */
export type Step =
  | { do: 'save'; id: string; file: string; basedOn: number }
  | { do: 'create'; file: string }
  | { do: 'write'; id: string; file?: string }
  | { do: 'remove'; id: string; file: string }
  | { do: 'forget'; id: string }

/**
 * The steps by which nothing that was done on either side is lost. `left` are reports whose files were taken out of the folder, with the
 * version that they had then.
 */
export function stepsBetween(
  common: readonly InCommon[],
  library: readonly Listed[],
  folder: ReadonlyMap<string, string>,
  left: ReadonlyMap<string, number> = new Map(),
): Step[] {
  const steps: Step[] = []
  const known = new Map(common.map(each => [each.id, each]))
  const files = new Set(common.map(each => each.file))
  const listed = new Set(library.map(each => each.id))
  for (const { id, file, text, name, version } of common) {
    const now = folder.get(file)
    if (!listed.has(id)) {
      if (now === undefined) steps.push({ do: 'forget', id })
      else if (now === text) steps.push({ do: 'remove', id, file })
      // it was changed while it was put away: it is a report of its own
      else steps.push({ do: 'forget', id }, { do: 'create', file })
      continue
    }
    const latest = library.find(each => each.id === id)!
    const gone = latest.version !== version || latest.name !== name
    if (now === undefined) {
      if (gone) steps.push({ do: 'write', id, file })
      else steps.push({ do: 'forget', id })
    } else if (now !== text) steps.push({ do: 'save', id, file, basedOn: version })
    else if (gone) steps.push({ do: 'write', id, file })
  }
  for (const { id, version } of library) if (!known.has(id) && left.get(id) !== version) steps.push({ do: 'write', id })
  for (const file of folder.keys()) if (!files.has(file)) steps.push({ do: 'create', file })
  return steps
}
