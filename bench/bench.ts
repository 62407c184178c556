import { readFileSync } from 'node:fs'
import { data } from './data'
import { edit } from './edit'
import { crossed } from './crossed'
import { documents } from './documents'
import { csv, groups, pdf, workbook } from './files'
import { note, scale, table, values } from './harness'
import { grids } from './grids'
import { intake } from './intake'
import { nested } from './nested'
import { lists } from './lists'
import { packs } from './packs'
import { people } from './people'
import { page, scroll } from './page'
import { read } from './reading'
import { copies, servers } from './servers'
import { start } from './start'
import { statements } from './statements'

const parts: Record<string, () => Promise<void>> = {
  edit,
  page,
  groups,
  grids,
  crossed,
  nested,
  scroll,
  pdf,
  read,
  data,
  lists,
  statements,
  workbook,
  csv,
  intake,
  servers,
  copies,
  people,
  packs,
  documents,
  start,
}

// a part that fails is a row of the table, and the others are measured all the same
for (const [name, run] of Object.entries(parts)) {
  if (values.only && values.only !== name) continue
  await run().catch((error: Error) => note(`the part “${name}”`, error.message.split('\n')[0]!, 'measured', false))
}
const machine = /model name\s*: (.*)/.exec(readFileSync('/proc/cpuinfo', 'utf8'))?.[1] ?? ''
console.log(`\n${machine}, Node ${process.version}, ${new Date().toISOString().slice(0, 10)}, scale ${scale}\n`)
const width = (key: 'what' | 'measured' | 'limit') => Math.max(...table.map(row => row[key].length))
for (const row of table)
  console.log(
    `${row.reached === undefined ? ' ' : row.reached ? '✓' : '✗'} ${row.what.padEnd(width('what'))}  ` +
      `${row.measured.padEnd(width('measured'))}  ${row.limit}`,
  )
process.exit(0)
