import '../plugins'
import type { Query, Rows } from '../core/sql/query'
import { type Context, ownContext } from '../server/access/context'
import type { Estante } from '../server/estante'

import { schema as sourceSchema } from '../demo/source'
import { type AssembledReport, assembleReport, usedFields } from '../core/compose/assemble'
import type { ComposeOptions } from '../core/compose/flow'
import type { ReportDefinition } from '../core/definition/report'
import { readAnswers } from '../core/parameter/answers'
import { readRecords } from '../core/read/read'
import { planDataSet } from '../core/sql/plan'
import type { DataRecords } from '../core/value/records'
import { clock } from '../demo/company/clock'

export { companyEngine, companyFolder, schema as sourceSchema, sourceId } from '../demo/source'

/** Who asks in a benchmark. */
export const tester: Context = { person: 'bench' }

/** A statement over the company of a running Estante. */
export const askCompany = (estante: Estante, query: Query): Promise<Rows> =>
  estante.sources.reading(tester, '', snapshot => snapshot.query(query))

/** A report assembled and read whole: what it stands on before anything is shaped or composed. */
export async function readWhole(
  estante: Estante,
  definition: ReportDefinition,
  answers: Record<string, string>,
  ticked = false,
): Promise<{ report: AssembledReport; data: DataRecords; around: ComposeOptions }> {
  const { catalog } = await estante.sources.catalog(ownContext, '')
  const report = assembleReport(definition, catalog)
  const { values } = readAnswers(definition.parameters, answers, { today: clock, calendar: catalog.calendar! })
  const plan = planDataSet({
    levels: report.tree.levels,
    catalog: report.model.catalog,
    tables: report.model.tables,
    schema: sourceSchema,
    used: usedFields(report, ticked),
    parameterTypes: report.parameterTypes,
    parameters: values,
    today: clock,
  })
  let data: DataRecords | undefined
  for await (const chunk of readRecords(plan, query => askCompany(estante, query), { chunk: Number.MAX_SAFE_INTEGER })) data = chunk.records
  return { report, data: data!, around: { levels: report.tree.levels, parameters: values, today: clock, calendar: catalog.calendar! } }
}
