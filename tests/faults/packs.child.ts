import { newPack, type PackDefinition } from '../../core/pack/definition'
import { openEstante } from '../../server/estante'

/**
 * A program that works at packs over a store that it shares: it begins all occasions, whatever others have begun of them, and goes on with
 * what they left; it tells when nothing is left, and what came of it.
 */
const [folder, mailPort, count] = process.argv.slice(2) as [string, string, string]
const context = { person: 'faults' }
const tell = (line: string) => process.stdout.write(`${line}\n`)
const estante = await openEstante({ folder, databaseUrl: process.env.FAULTS_URL! })
const { company, packs } = estante.store
if (!(await company.mail(context)).value)
  await company
    .saveMail(context, { host: '127.0.0.1', port: Number(mailPort), security: 'none', from: 'Faults <faults@harbour.example>' })
    .catch(() => {})

const library = (await estante.store.library(context)).flatMap(shelf => shelf.reports)
const order = library.find(each => each.name === 'Purchase order')!
const definition: PackDefinition = {
  ...newPack(),
  reports: [{ id: 'order', report: order.id, name: order.name, answers: { dates: { is: 'text', text: '2026-10-28..2026-10-31' } } }],
  out: { name: 'Orders', pdf: true, cover: true, numbered: true, zip: false },
  hold: 'never',
  to: [
    {
      is: 'records',
      id: 'records',
      report: 'order',
      address: '"orders@harbour.example"',
      name: 'Order {{ number }}',
      subject: 'Order {{ number }}',
      body: '',
      inLanguages: [],
    },
    { is: 'mail', id: 'people', to: ['a@harbour.example', 'b@harbour.example'], subject: 'Orders', body: '', files: ['pdf'] },
    { is: 'folder', id: 'folder', folder: 'Orders', files: ['pdf'], replace: true },
  ],
}
const name = 'Kills'
const known = async () => (await packs.list(context)).find(each => each.name === name)
if (!(await known())) await packs.add(context, name, definition).catch(() => {})
const pack = (await known())!
tell('open')
for (let at = 1; at <= Number(count); at++) await estante.packs.start(context, pack, { answers: {}, occasion: `occasion ${at}` })
tell('begun')
for (;;) {
  const runs = await estante.store.packRuns.list(pack.id, 10_000)
  if (!runs.some(each => ['waiting', 'running', 'sending'].includes(each.state))) {
    for (const run of runs) {
      tell(`run ${JSON.stringify([run.occasion, run.state, run.sentences])}`)
      for (const each of await estante.store.deliveries.of(run.id))
        tell(`letter ${JSON.stringify([run.occasion, each.kind, each.state, each.messageId])}`)
    }
    break
  }
  estante.packs.next()
  await new Promise(resolve => setTimeout(resolve, 300))
}
tell('over')
// whoever started it decides when it ends
await new Promise(() => setInterval(() => {}, 1000))
