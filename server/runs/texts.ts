import type { TableColumn, TableDefinition } from '../../core/definition/tables'
import { parameterTypes } from '../../core/definition/parameters'
import { bindNames, SqlTextError } from '../../core/sql/authored'
import { RunError, type RunInput } from './input'
import { bound } from '../../core/catalog/dialect'

const words = { number: 'a number', text: 'a text', date: 'a date', moment: 'a date with a time', boolean: 'yes or no' } as const
const digits = (scale: number | undefined) =>
  scale === undefined ? 'any number of decimals' : `${scale} ${scale === 1 ? 'decimal' : 'decimals'}`

/**
 * A report with the columns that its SQL texts give now, and what has changed since they were described, in sentences (rule 43 of the
 * semantics). @throws RunError where the source does not take a text any more
 */
export async function withDescribedTexts(
  input: RunInput,
  describe: (text: string) => Promise<TableColumn[]>,
): Promise<{ input: RunInput; changes: string[] }> {
  const { tables, parameters } = input.definition
  if (!tables?.some(each => each.kind === 'sql')) return { input, changes: [] }
  const changes: string[] = []
  const types = parameterTypes(parameters)
  const now: TableDefinition[] = []
  for (const table of tables) {
    if (table.kind !== 'sql') {
      now.push(table)
      continue
    }
    let columns: TableColumn[]
    try {
      columns = await describe(bound(bindNames(table.text, types, {}), true).text)
    } catch (error) {
      const why = error instanceof SqlTextError || error instanceof Error ? error.message : String(error)
      throw new RunError([`The text of “${table.name}” cannot be read any more: ${why.replace(/^The source answered: /, '')}`])
    }
    const told = differences(table, columns)
    changes.push(...told)
    now.push(told.length ? { ...table, columns } : table)
  }
  if (!changes.length) return { input, changes }
  // what is made now is that of no kept definition
  const { definitionVersion: _, ...rest } = input
  return { input: { ...rest, definition: { ...input.definition, tables: now } }, changes }
}

function differences({ name, columns }: TableDefinition & { kind: 'sql' }, now: readonly TableColumn[]): string[] {
  const gone = columns.filter(each => !now.some(own => own.name === each.name))
  const added = now.filter(each => !columns.some(own => own.name === each.name))
  const changed = now.flatMap((each): string[] => {
    const before = columns.find(own => own.name === each.name)
    if (!before) return []
    if (before.type !== each.type)
      return [`The column “${each.name}” of “${name}” is ${words[each.type]} now, and was ${words[before.type]}.`]
    return each.type === 'number' && before.scale !== each.scale
      ? [`The column “${each.name}” of “${name}” has ${digits(each.scale)} now, and had ${digits(before.scale)}.`]
      : []
  })
  return [
    ...gone.map(each => `The text “${name}” gives no column “${each.name}” any more.`),
    ...changed,
    ...added.map(each => `The text “${name}” gives a new column “${each.name}”.`),
  ]
}
