import type { PGlite } from '@electric-sql/pglite'
import { expect } from 'vitest'
import type { Catalog } from '../core/books/catalog'
import { assembleReport, usedFields } from '../core/compose/assemble'
import { Composer } from '../core/compose/flow'
import type { LayoutNotice } from '../core/compose/notices'
import type { Page } from '../core/compose/page'
import { planDataSet } from '../core/sql/plan'
import { readRecords } from '../core/read/read'
import type { DataRecords } from '../core/value/records'
import { readDefinition } from '../core/definition/schema'
import type { ReportDefinition } from '../core/definition/report'
import { readAnswers } from '../core/parameter/answers'
import { clock } from '../demo/company/clock'
import { plainFetch } from './support'

/** All pages of a report over the demo company, with boxes, and the records they are made from. */
export async function composeReport(
  db: PGlite,
  catalog: Catalog,
  definition: ReportDefinition,
  answers: Record<string, string>,
  layout?: string,
): Promise<{ pages: Page[]; data: DataRecords; notices: LayoutNotice[] }> {
  const report = assembleReport(readDefinition(definition), catalog, 0, layout)
  expect(report.tree.problems).toEqual([])
  expect(report.layout.problems).toEqual([])
  const { values, problems } = readAnswers(definition.parameters, answers, { today: clock, calendar: catalog.calendar! })
  expect(problems).toEqual([])
  const { levels } = report.tree
  const plan = planDataSet({
    levels,
    catalog: report.model.catalog,
    tables: report.model.tables,
    schema: 'company',
    used: usedFields(report, true),
    parameterTypes: report.parameterTypes,
    parameters: values,
    today: clock,
  })
  let data: DataRecords | undefined
  for await (const chunk of readRecords(plan, plainFetch(db), { chunk: 1_000_000 })) data = chunk.records
  const composer = new Composer(report.layout, {
    levels,
    parameters: values,
    today: clock,
    calendar: catalog.calendar!,
    boxes: true,
    keys: true,
    pageCount: 0,
  })
  const pages = [...composer.add(data!), ...composer.end()]
  return { pages, data: data!, notices: [...report.layout.notices, ...composer.notices()] }
}

export async function runReport(...order: Parameters<typeof composeReport>): Promise<Page[]> {
  return (await composeReport(...order)).pages
}

/** What stands in a column of a kind of row, read from what is drawn inside its boxes, row by row. */
export function cellsOf(pages: readonly Page[], block: string, row: string, cell: string): string[] {
  return pages.flatMap(page => {
    const texts = page.items.filter(item => item.kind === 'text')
    return page.boxes
      .filter(box => box.block === block && box.rowId === row && box.cell === cell)
      .map(box =>
        texts
          .filter(item => item.y > box.y && item.y <= box.y + box.height && item.x >= box.x - 0.01 && item.x < box.x + box.width)
          .map(item => item.text)
          .join(' '),
      )
  })
}
