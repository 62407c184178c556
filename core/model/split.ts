import { addDataSet, putTable } from '../definition/edits/dataSets'
import { blankLevel, columnsOf, type SqlTable, tableNames } from '../definition/edits/ownTables'
import { freeId } from '../definition/names'
import type { ReportDefinition } from '../definition/report'
import { levelNames } from '../definition/walk'
import { pathText } from '../formula/syntax'

/**
 * Splits the rows of a text into headers and their rows: columns of the key and those that never change within it stand once, above the
 * rest. Both come into view as a data set of two levels, the last of the report. `before` is the name under which the text was kept.
 */
export function splitText(
  report: ReportDefinition,
  flat: SqlTable,
  { key, constants, before }: { key: readonly string[]; constants: readonly string[]; before?: string | undefined },
): ReportDefinition {
  const taken = tableNames(report).filter(each => each !== before)
  const names = levelNames(report)
  const above = [...key, ...constants]
  // a measure or group of a summary is called by one word, whatever the columns are called
  const named = new Map<string, string>()
  for (const column of above) named.set(column, freeId(column.replace(/[^\p{L}\p{N}_]+/gu, '_'), [...named.values()], true))
  const word = (column: string): string => named.get(column)!
  const header = freeId(`${flat.name}_headers`, taken, true)
  const withTables = putTable(putTable(report, flat, before), {
    kind: 'summary',
    name: header,
    base: blankLevel(freeId(`${flat.name}_rows`, names, true), `@${flat.name}`),
    by: above.map(column => ({ name: word(column), formula: pathText(column) })),
    measures: [],
  })
  return addDataSet(withTables, freeId(`${flat.name}_split`, taken, true), {
    ...blankLevel(freeId('header', names, true), `@${header}`),
    caption: 'Header',
    fields: above.map(word),
    sort: key.map(column => ({ field: word(column), descending: false })),
    details: [
      {
        ...blankLevel(freeId('rows', names, true), `@${flat.name}`),
        caption: 'Rows',
        fields: columnsOf(flat).filter(column => !above.includes(column)),
        on: key.map(column => ({ from: word(column), to: column })),
      },
    ],
  })
}
