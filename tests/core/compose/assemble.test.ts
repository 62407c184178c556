import fc from 'fast-check'
import { beforeAll, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import type { ReportDefinition } from '../../../core/definition/report'
import { reportModel } from '../../../core/model/model'
import { demoReports } from '../../../demo/reports/reports'
import { demoDatabase } from '../../support'
import { assembleReport, modelOf } from '../../../core/compose/assemble'

let catalog: Catalog
beforeAll(async () => {
  catalog = (await demoDatabase()).catalog
})

/** Changes that someone makes to a report, each to another part of it. */
const edits: ((report: ReportDefinition) => ReportDefinition)[] = [
  report => ({ ...report, tieOuts: [] }),
  report => ({
    ...report,
    tieOuts: [
      {
        id: 'sides',
        name: 'Sides',
        left: { is: 'formula', dataSet: report.dataSets[0]!.name, formula: 'sum(debit)' },
        right: { is: 'formula', dataSet: report.dataSets[0]!.name, formula: 'sum(credit)' },
        tolerance: '0',
      },
    ],
  }),
  report => ({ ...report, layouts: report.layouts.map(layout => ({ ...layout, blocks: [] })) }),
  report => ({
    ...report,
    layouts: report.layouts.map(layout => ({
      ...layout,
      blocks: layout.blocks.map(block => (block.kind === 'statement' ? { ...block, lines: block.lines.slice(0, 2) } : block)),
    })),
  }),
  report => ({ ...report, parameters: report.parameters.slice(0, -1) }),
  report => ({ ...report, dataSets: report.dataSets.map(set => ({ ...set, root: { ...set.root, fields: set.root.fields.slice(0, 2) } })) }),
  report => ({ ...report, layouts: report.layouts.map(layout => ({ ...layout, page: { ...layout.page, orientation: 'landscape' } })) }),
]

/** All that a layout holds, without functions and without what is shared. */
const told = (value: unknown) =>
  JSON.stringify(value, (_, each: unknown) =>
    each instanceof Map || each instanceof Set ? [...each] : typeof each === 'bigint' ? `${each}n` : each,
  )

it('models and layouts that are kept are those that would be made anew, whatever was edited before', () => {
  const reports = demoReports().map(each => each.definition)
  fc.assert(
    fc.property(
      fc.constantFrom(...reports),
      fc.array(fc.record({ edit: fc.nat(edits.length - 1), back: fc.boolean() }), { minLength: 1, maxLength: 6 }),
      (report, steps) => {
        let now = report
        for (const { edit, back } of steps) {
          now = edits[edit]!(back ? report : now)
          expect(modelOf(now, catalog)).toEqual(reportModel(now, catalog))
          expect(told(assembleReport(now, catalog).layout)).toBe(told(assembleReport(structuredClone(now), catalog).layout))
        }
      },
    ),
    { numRuns: 60 },
  )
})

it('an edit of the layout alone leaves the model as it was; one of the data does not', () => {
  for (const { definition } of demoReports()) {
    const model = modelOf(definition, catalog)
    expect(modelOf(edits[6]!(definition), catalog)).toBe(model)
    expect(assembleReport(edits[6]!(definition), catalog).model).toBe(model)
    expect(modelOf(edits[5]!(definition), catalog)).not.toBe(model)
  }
})
