/** What a name stands for; where there is none, why not. */
export type Renaming = (report: string) => string

/** A definition whose nested reports are named anew: by their names for a folder, by their ids for a store. */
export function renameNested<T>(definition: T, renamed: Renaming): T {
  const visit = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(visit)
    if (typeof value !== 'object' || value === null) return value
    const own = Object.fromEntries(Object.entries(value).map(([name, each]) => [name, visit(each)]))
    return own.kind === 'nested' && typeof own.report === 'string' ? { ...own, report: renamed(own.report) } : own
  }
  return visit(definition) as T
}

/** A pack whose reports are named anew. */
export const renameInPack = <T extends { reports?: { report: string }[] }>(pack: T, renamed: Renaming): T => ({
  ...pack,
  ...(pack.reports ? { reports: pack.reports.map(each => ({ ...each, report: renamed(each.report) })) } : {}),
})
