import type { PGlite } from '@electric-sql/pglite'
import { expect } from 'vitest'
import type { Catalog } from '../core/books/catalog'
import { assembleReport, usedFields } from '../core/compose/assemble'
import { Composer } from '../core/compose/flow'
import type { Page } from '../core/compose/page'
import { laidStatement, type LaidStatement } from '../core/compose/statement/lay'
import { statementAmong } from '../core/compose/statement/prepare'
import { planDataSet } from '../core/sql/plan'
import { readRecords } from '../core/read/read'
import type { DataRecords } from '../core/value/records'
import type { ReportDefinition } from '../core/definition/report'
import { readAnswers } from '../core/parameter/answers'
import { clock } from '../demo/company/clock'
import { plainFetch } from './support'

/** The first statement of a report as it is laid out, with the notices of its pages. */
export async function layReport(
  db: PGlite,
  catalog: Catalog,
  definition: ReportDefinition,
  answers: Record<string, string>,
  schema = 'company',
): Promise<LaidStatement & { notices: string[]; problems: string[]; pages: Page[]; data: DataRecords }> {
  const report = assembleReport(definition, catalog)
  const { values, problems } = readAnswers(definition.parameters, answers, { today: clock, calendar: catalog.calendar! })
  expect(problems).toEqual([])
  const plan = planDataSet({
    levels: report.tree.levels,
    catalog: report.model.catalog,
    tables: report.model.tables,
    schema,
    used: usedFields(report, false),
    parameterTypes: report.parameterTypes,
    parameters: values,
    today: clock,
  })
  let data: DataRecords | undefined
  for await (const chunk of readRecords(plan, plainFetch(db), { chunk: Number.MAX_SAFE_INTEGER })) data = chunk.records
  const composer = new Composer(report.layout, {
    levels: report.tree.levels,
    parameters: values,
    today: clock,
    calendar: catalog.calendar!,
    boxes: true,
  })
  const pages = [...composer.add(data!), ...composer.end()]
  expect(pages.length).toBeGreaterThan(0)
  const prepared = statementAmong(report.layout.blocks)!
  return {
    ...laidStatement(prepared, composer),
    pages,
    data: data!,
    notices: composer.notices().map(notice => notice.sentence),
    problems: [...report.tree.problems.map(problem => problem.sentence), ...report.layout.problems.map(problem => problem.sentence)],
  }
}
