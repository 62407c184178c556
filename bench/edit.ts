import { ownContext } from '../server/access/context'
import { company, median, ms, note } from './harness'
import { askCompany, sourceSchema } from './support'
import { assembleReport, usedFields } from '../core/compose/assemble'
import { Composer } from '../core/compose/flow'
import { setColumnWidth, setPage, setText, insertColumn } from '../core/definition/edits/edits'
import { setField } from '../core/definition/edits/levels'
import type { ReportDefinition } from '../core/definition/report'
import { planDataSet } from '../core/sql/plan'
import { readRecords } from '../core/read/read'
import type { DataRecords } from '../core/value/records'
import { readAnswers } from '../core/parameter/answers'
import { clock } from '../demo/company/clock'
import { salesInvoice } from '../demo/reports/invoice'
import { openEstante } from '../server/estante'

/** An edit on the Page stage with 200 pinned invoices: from the definition to the display lists of the visible pages. */
export async function edit(): Promise<void> {
  const folder = await company(1)
  const estante = await openEstante({ folder })
  const base = salesInvoice()
  base.dataSets[0]!.root.filters = ['kind = "invoice"']
  const catalog = (await estante.sources.catalog(ownContext, '')).catalog
  const report = assembleReport(base, catalog)
  const { values: parameters } = readAnswers(base.parameters, {}, { today: clock })
  const plan = planDataSet({
    levels: report.tree.levels,
    catalog,
    schema: sourceSchema,
    used: usedFields(report, true),
    parameterTypes: report.parameterTypes,
    parameters,
    today: clock,
  })
  let records: DataRecords | undefined
  for await (const chunk of readRecords(plan, query => askCompany(estante, query), { chunk: 200, limit: 200 })) records = chunk.records
  await estante.close()
  const edits: ((definition: ReportDefinition, index: number) => ReportDefinition)[] = [
    (definition, index) => setText(definition, { block: 'lines', cell: 'item', part: 'titles' }, `Item ${index}`),
    (definition, index) => setColumnWidth(definition, 'lines', 'quantity', 50 + (index % 30)),
    (definition, index) => setField(definition, 'lines.amount', { format: index % 2 ? '#,##0.00' : '#,##0' }),
    definition => insertColumn(definition, 'lines', 1, { title: 'Category', text: '{{ item.category.name }}', width: 60 }),
    (definition, index) => setPage(definition, { orientation: index % 2 ? 'portrait' : 'landscape' }),
  ]
  for (const [where, recordsBefore] of [
    ['the first pages', 0],
    ['the last pages', 197],
  ] as const) {
    const times: number[] = []
    for (let index = 0; index < 120; index++) {
      const definition = edits[index % edits.length]!(base, index)
      const began = performance.now()
      const { tree, layout } = assembleReport(definition, catalog)
      // as the browser's worker does it: the records in view first
      const pages = new Composer(layout, { levels: tree.levels, parameters, today: clock, boxes: true }).add(records!, recordsBefore)
      for (let page = 0; page < 3; page++) pages.next()
      if (index >= 20) times.push(performance.now() - began)
    }
    note(
      `an edit with 200 pinned invoices, ${where} in view`,
      `median ${ms(median(times))}, longest ${ms(Math.max(...times))}`,
      '≤ 30 ms median',
      median(times) <= 30,
    )
  }
}
