import { ownContext } from '../../server/access/context'
import { openEstante } from '../../server/estante'
import { Store } from '../../server/store/store'
import { salesInvoice } from '../../demo/reports/invoice'
import { companyEngine } from '../../demo/source'
import { companyDesk } from '../../demo/desk/desk'
import { mkdirSync } from 'node:fs'
import { dirname, join } from 'node:path'

/** Writes to a store or to the desk without end, and tells each write once it is acknowledged; or tells what is there. */
const [what, folder, begin] = process.argv.slice(2) as [string, string, string]
const context = { person: 'faults' }
const tell = (line: string) => process.stdout.write(`${line}\n`)
/** Ends once all that was told has left. */
const leave = () => new Promise<never>(() => process.stdout.write('', () => process.exit(0)))
// a program that is killed in the middle of a start opens it whole
if (what === 'open') {
  const estante = await openEstante({ folder })
  const shelves = await estante.store.library(context)
  tell(`reports ${shelves.reduce((sum, shelf) => sum + shelf.reports.length, 0)}`)
  const { catalog } = await estante.sources.catalog(ownContext, '')
  tell(`tables ${catalog.tables.length}`)
  await estante.close()
  await leave()
}
const engine = what.endsWith('desk') ? companyEngine(folder) : undefined
mkdirSync(dirname(folder), { recursive: true })
const store = engine
  ? undefined
  : await Store.open(process.env.FAULTS_URL ? { url: process.env.FAULTS_URL } : { folder: join(folder, 'store') })
const name = (number: number) => `Report ${number}`
async function post(number: number): Promise<void> {
  await companyDesk(engine!, 'company').post(context, {
    kind: 'entry',
    entry: {
      date: '2026-10-15',
      description: `Write ${number}`,
      document: String(number),
      lines: [
        { account: '6150', branch: 'NQ', debit: '10.00' },
        { account: '1010', branch: 'NQ', credit: '10.00' },
      ],
    },
  })
}
if (what.startsWith('check')) {
  if (store) for (const shelf of await store.library(context)) for (const report of shelf.reports) tell(report.name.replace('Report ', ''))
  else {
    await engine!.open()
    const rows = await engine!.query(context, {
      text: `select j.document_number, count(*)::text from company.journals j join company.journal_lines l on l.journal_id = j.id where
        j.description like 'Write %' group by 1`,
      values: [],
      columns: [
        { path: 'a', type: 'text' },
        { path: 'b', type: 'text' },
      ],
    })
    const [numbers, counts] = rows.columns.map(column => (column as { values: string[] }).values)
    numbers!.forEach((number, at) => tell(counts![at] === '2' ? number : `torn ${number}`))
  }
  await leave()
}
if (engine) await engine.open()
tell('open')
const definition = salesInvoice()
for (let number = Number(begin); ; number++) {
  if (store) await store.create(context, 'Shelf', name(number), definition, false)
  else await post(number)
  tell(String(number))
}
