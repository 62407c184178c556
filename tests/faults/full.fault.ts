import { execFileSync } from 'node:child_process'
import { cpSync, mkdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { setText } from '../../core/definition/edits/edits'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoFolder, end, scratch, type Server, startServer, wait } from './support'

/** A small disk that becomes full: during saves and runs, at a start, at the very first start, and as the journal wants its next file. */
const folder = scratch()
const faults: string[] = []
let checks = 0
const expect = (holds: boolean, words: string) => {
  checks++
  if (!holds) faults.push(words)
}
const within = async <T>(work: Promise<T>, words: string): Promise<T | undefined> => {
  const late = Symbol('late')
  const found = await Promise.race([work, wait(60_000).then(() => late)])
  expect(found !== late, `${words} hangs`)
  return found === late ? undefined : (found as T)
}
function disk(megabytes: number): string {
  const place = join(folder, `disk${checks}${megabytes}`)
  mkdirSync(place)
  execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', place])
  process.prependListener('exit', () => execFileSync('umount', ['-l', place]))
  return place
}
const ballast = (place: string) => join(place, 'ballast')
/** Fills a disk up to so many bytes. */
function fill(place: string, left: number): void {
  rmSync(ballast(place), { force: true })
  const { bavail, bsize } = statfsSync(place)
  writeFileSync(ballast(place), Buffer.alloc(Math.max(0, bavail * bsize - left)))
}
const sentence = (text: unknown) => typeof text === 'string' && /^[A-ZĀ-Ž“].*[.!]$/s.test(text) && /disk/i.test(text)
const told = async (answer: Response) => ((await answer.json().catch(() => ({}))) as { message?: string }).message
let turn = 0
const changed = () =>
  setText(salesInvoice(), { block: 'pageTop', cell: 'pageNumber', part: 'item' }, `Turn ${++turn} ${'x'.repeat(15_000)}`)

async function saves(server: Server, place: string, left: number): Promise<void> {
  const made = await server.ask('/api/reports', {
    method: 'POST',
    body: { name: `Full ${left}`, shelf: 'Shelf', definition: salesInvoice() },
  })
  const { id } = (await made.json()) as { id: string }
  let version = 1
  const save = () => server.ask(`/api/reports/${id}`, { method: 'PUT', body: { basedOn: version, definition: changed() } })
  fill(place, left)
  let refused: Response | undefined
  for (let count = 0; count < 3000 && !refused; count++) {
    const answer = await within(save(), 'a save on a full disk')
    if (!answer) return
    if (answer.ok) version = ((await answer.json()) as { version: number }).version
    else refused = answer
  }
  expect(!!refused, 'saves never find the disk full')
  if (refused) expect(refused.status === 507 && sentence(await told(refused)), 'a save on a full disk is not told in a sentence')
  const kept = (await (await server.ask(`/api/reports/${id}`)).json()) as { version: number }
  expect(kept.version === version, `a save was lost: ${kept.version} instead of ${version}`)
  // runs and the desk too
  fill(place, 60_000)
  const run = { report: 'Sales invoice', answers: { month: '2026-09' }, output: { format: 'pdf' } }
  const order = await within(server.ask('/api/order', { method: 'POST', body: run }), 'a run on a full disk')
  expect(
    !!order && order.status >= 400 && order.status !== 500 && sentence(await told(order)),
    'a run on a full disk is not told in a sentence',
  )
  const post = {
    kind: 'entry',
    entry: {
      date: '2026-10-15',
      description: 'Full',
      lines: [
        { account: '6150', branch: 'NQ', debit: '1.00' },
        { account: '1010', branch: 'NQ', credit: '1.00' },
      ],
    },
  }
  const desk = '/api/sources/caisvelho/desk/documents'
  const posted = await within(server.ask(desk, { method: 'POST', body: post }), 'a desk document on a full disk')
  expect(!!posted && posted.status >= 400 && posted.status !== 500 && sentence(await told(posted)), 'the desk does not tell of a full disk')
  rmSync(ballast(place))
  const again = await within(save(), 'a save after room was made')
  expect(!!again?.ok, 'saving does not go on when there is room again')
  const rerun = await within(server.ask('/api/order', { method: 'POST', body: run }), 'a run after room was made')
  expect(!!rerun?.ok, 'runs do not go on when there is room again')
  await rerun?.arrayBuffer()
  const repost = await within(server.ask(desk, { method: 'POST', body: post }), 'the desk after room was made')
  expect(!!repost?.ok, 'the desk does not go on when there is room again')
}

const template = join(folder, 'template')
await demoFolder(template)
{
  const place = disk(420)
  cpSync(template, place, { recursive: true })
  const server = await startServer(place)
  for (const left of [30 * 2 ** 20, 17 * 2 ** 20, 2 ** 20]) await saves(server, place, left)
  await server.stop()
  // at a start
  fill(place, 200_000)
  const blocked = await within(startServer(place), 'a start on a full disk')
  expect(
    blocked?.process.exitCode === 2 && /disk/i.test(blocked.errors()),
    `a start on a full disk is not told: ${blocked?.errors().slice(0, 300)}`,
  )
  rmSync(ballast(place))
  const after = await startServer(place)
  expect((await after.ask('/api/library')).ok, 'a start after room was made fails')
  await after.stop()
}
{
  // the very first start
  const place = disk(90)
  const blocked = await within(startServer(place), 'a first start on a small disk')
  const errors = blocked?.errors() ?? ''
  if (blocked?.process.exitCode === null) {
    // the library opens; what could not be made is told there
    const [source] = (await (await blocked.ask('/api/sources')).json()) as { away?: { why: string } }[]
    expect(/disk|space/i.test(source?.away?.why ?? ''), `a first start on a small disk tells nothing: ${JSON.stringify(source)}`)
    await blocked.stop()
  } else expect(/disk/i.test(errors), `a first start on a small disk is not told: ${errors.slice(0, 300)}`)
  execFileSync('mount', ['-o', 'remount,size=600m', place])
  const after = await within(startServer(place), 'a first start after room was made')
  expect(!!after && (await after.ask('/api/library')).ok, 'a first start after room was made fails')
  const order = await after?.ask('/api/order', {
    method: 'POST',
    body: { report: 'Sales invoice', answers: { month: '2026-09' }, output: { format: 'pdf' } },
  })
  expect(!!order?.ok, 'the company is not made after room was made')
  await order?.arrayBuffer()
  await after?.stop()
}
end('full', !faults.length, faults.length ? faults.join('; ') : `${checks} checks of a full disk: sentences, nothing lost, and it goes on`)
