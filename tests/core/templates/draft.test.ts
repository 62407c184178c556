import { expect, it } from 'vitest'
import { demoDatabase } from '../../support'
import { assembleReport } from '../../../core/compose/assemble'
import { listOfTable, usualFields } from '../../../core/templates/draft'
import { readDefinition } from '../../../core/definition/schema'

it('every table of a source gives a list that can be stored and printed', async () => {
  const { catalog } = await demoDatabase()
  for (const table of catalog.tables) {
    const definition = listOfTable(catalog, table.name, 'caisvelho', 'A list')
    const { tree, layout } = assembleReport(readDefinition(definition), catalog)
    expect([tree.problems, layout.problems], table.name).toEqual([[], []])
    for (const field of usualFields(catalog, table.name)) expect(table.columns.map(column => column.name)).toContain(field)
  }
  expect(usualFields(catalog, 'customers')).toEqual(['code', 'name'])
  // a name with other signs is written so that it is read as one
  const odd = {
    tables: [
      {
        schema: '',
        name: 'odd table',
        primaryKey: [],
        rowEstimate: 0,
        columns: [{ name: 'Net amount %', type: 'number' as const, databaseType: 'numeric', required: false }],
      },
    ],
    foreignKeys: [],
  }
  expect(assembleReport(readDefinition(listOfTable(odd, 'odd table', 'x', 'Odd')), odd).layout.problems).toEqual([])
})
