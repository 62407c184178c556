import type { RunInput } from './input'
import { type ReadyRun, readyRun } from './ready'
import { RunMeter } from './meter'
import { planRun } from './execute'
import type { Fetch } from '../../core/read/read'
import { packRecords } from '../../core/value/nestedEnvelope'
import { sentNested } from '../../core/compose/nested/sent'
import { printedOf } from './nested/ready'
import { emptySentence } from '../../core/parameter/sentences'
import { findTable } from '../../core/catalog/types'

/** Rows of the books that a preview takes in. */
const mostFigures = 200_000

/** The first records of a report, as the Data and Page stages show them, packed. */
export async function preview(input: RunInput, wanted: number, fetch: Fetch, changes: readonly string[] = []): Promise<Uint8Array> {
  const ready = readyRun(input, true)
  const meter = new RunMeter()
  // figures of the books are added up by the source: they are few, and a statement wants them all (rule 23)
  const whole = ready.report.model.tables.get(ready.report.tree.levels[0]!.definition.table)?.kind === 'ledger'
  const limit = whole ? mostFigures : wanted
  const plan = planRun(ready, 'all', whole ? undefined : limit)
  for await (const chunk of meter.chunks(ready, plan, fetch, { chunk: limit }, 'all')) {
    const sql = plan.levels.map(
      level =>
        plan.records(
          level.index,
          plan.link(level.index).own.map(() => ['…']),
        ).text,
    )
    const head = {
      ...counted(ready, chunk.total, limit),
      labels: input.labels,
      sql: [plan.keys.text, ...sql],
      ms: Math.round(meter.ms.fetch + meter.ms.shape),
      ...(changes.length ? { changes } : {}),
      ...(ready.inside ? { reports: sentNested(printedOf(ready.inside), ready.catalog) } : {}),
      empty: chunk.total ? undefined : emptySentence(ready.definition, ready.parameters),
    }
    return packRecords(head, chunk.records)
  }
  throw new Error('Reading gave nothing.')
}

/** How many roots there are: known where all came, else about as many as the table has, as far as no filter takes some away. */
function counted(ready: ReadyRun, read: number, limit: number): { total?: number; about?: number } {
  if (read < limit) return { total: read }
  const { definition } = ready.report.tree.levels[0]!
  const estimate = findTable(ready.catalog, definition.table)?.rowEstimate
  return !definition.filters.length && estimate && estimate > read ? { about: estimate } : {}
}
