import type { CatalogTable } from '../catalog/types'
import type { ValueType } from '../value/value'

const kinds: Record<ValueType, string> = {
  text: 'text',
  number: 'a number',
  date: 'a date',
  moment: 'a date with a time',
  boolean: 'yes or no',
}

/** What a table of a file would change of the one whose place it takes: new columns, those that are gone, and those of another type. */
export function changesOf(before: Pick<CatalogTable, 'name' | 'columns'>, after: readonly { name: string; type: ValueType }[]): string[] {
  const known = new Map(before.columns.map(each => [each.name, each.type]))
  const now = new Map(after.map(each => [each.name, each.type]))
  const fresh = after.filter(each => !known.has(each.name)).map(each => each.name)
  // the line in the file is a column only where no other is a key
  const gone = before.columns.filter(each => !now.has(each.name) && each.name !== `${before.name}_line`).map(each => each.name)
  const other = after.flatMap(({ name, type }) => {
    const was = known.get(name)
    return was && was !== type ? [`“${name}” was ${kinds[was]} and is ${kinds[type]}`] : []
  })
  const listed = (names: readonly string[]) => names.map(each => `“${each}”`).join(', ')
  return [...(fresh.length ? [`new: ${listed(fresh)}`] : []), ...(gone.length ? [`gone: ${listed(gone)}`] : []), ...other]
}
