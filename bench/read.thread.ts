// Reads a data set into level records in a thread, as a run does, and counts.
import { parentPort, workerData } from 'node:worker_threads'
import type { Catalog } from '../core/books/catalog'
import { levelTree, tickedFields } from '../core/model/levels'
import { planDataSet } from '../core/sql/plan'
import { readRecords } from '../core/read/read'
import type { ReportDefinition } from '../core/definition/report'
import { plainFetch, type ReadingPorts, remoteReading } from '../server/runs/remote'

const { definition, catalog, schema, today, ports } = workerData as {
  definition: ReportDefinition
  catalog: Catalog
  schema: string
  today: number
  ports: ReadingPorts
}
const { levels } = levelTree(definition.dataSets[0]!, catalog)
const plan = planDataSet({
  levels,
  catalog,
  schema,
  used: levels.map(level => new Set(tickedFields(level.definition))),
  parameterTypes: {},
  parameters: {},
  today,
})
const before = process.memoryUsage().rss
const began = performance.now()
let [rows, memory] = [0, 0]
for await (const chunk of readRecords(plan, plainFetch({ own: remoteReading(ports.asks) }), { chunk: 2500 })) {
  rows += chunk.records.levels[1]!.count
  memory = Math.max(memory, process.memoryUsage().rss - before)
}
parentPort!.postMessage({ rows, memory, ms: performance.now() - began })
