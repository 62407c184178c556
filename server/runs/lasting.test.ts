import { existsSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runStates } from '../../core/api/runs'
import type { Role } from '../../core/api/people'
import { salesInvoice } from '../../demo/reports/invoice'
import { statement } from '../../demo/reports/statements'
import { removeServer, startServer, type TestServer } from '../../tests/servers'
import { askCompany, demoData, temporaryFolder, tester } from '../../tests/support'
import { type Context, ownContext } from '../access/context'
import { type Estante, openEstante } from '../estante'
import type { Database } from '../store/database'
import type { RunRecord } from './runRecord'
import { runs } from '../store/schema'
import { runInfo } from '../utils/runInfo'

/*
 * Runs outlive the program: what waited or ran is done after the next start, what was done is as it was, and several programs that share a
 * store do each once.
 */

const everything = () => {
  const definition = salesInvoice()
  definition.dataSets[0]!.root.filters = []
  return definition
}
const begin = async (estante: Estante, definition = salesInvoice(), answers: Record<string, string> = { month: '2026-10' }, more = {}) =>
  estante.runs.start(tester, { ...(await estante.input(tester, 'Report', definition, answers)), moment: 0, ...more }, 'report')
const pagesOf = async (estante: Estante, run: RunRecord) => (await estante.runs.files.pages(tester, run, 0, 1e6)).join('\n')
const fileOf = async (estante: Estante, run: RunRecord, output: Parameters<Estante['runs']['files']['written']>[2]) => {
  const file = await estante.runs.files.written(tester, run, output)
  const text = await file.readFile('utf8')
  await file.close()
  return text
}
/** The store's own tables, to change by hand what only a crash would leave. */
const tables = (estante: Estante) => (estante.store as unknown as { db: Database }).db

describe('a restart', () => {
  it('loses nothing: what ran and what waited is done, under the same names and with the same pages', async () => {
    const folder = demoData()
    const first = await openEstante({ folder })
    const started = await Promise.all([everything(), everything(), salesInvoice(), salesInvoice()].map(each => begin(first, each, {})))
    await Promise.all(started.map(run => run.kept))
    expect(started.map(run => run.state)).toEqual(['running', 'running', 'waiting', 'waiting'])
    await started[0]!.news
    await first.close()
    const next = await openEstante({ folder })
    try {
      const again = await Promise.all(started.map(async run => (await next.runs.get(tester, run.id))!))
      await Promise.all(again.map(run => run.over))
      const done = await Promise.all(started.map(async run => (await next.runs.get(tester, run.id))!))
      expect(done.map(run => run.state)).toEqual(['done', 'done', 'done', 'done'])
      const plain = await begin(next, everything(), {})
      await plain.over
      expect(await pagesOf(next, done[0]!)).toBe(await pagesOf(next, plain))
    } finally {
      await next.close()
    }
  })

  it('keeps what was done: pages, outline, files made and files to be made, at the moment that they were read', async () => {
    const folder = demoData()
    const first = await openEstante({ folder })
    const run = await begin(first)
    await run.over
    const [pages, csv] = [await pagesOf(first, run), await fileOf(first, run, { format: 'csv', level: 'lines' })]
    const xml = await fileOf(first, await begin(first).then(async each => (await each.over, each)), { format: 'xml' })
    await first.close()
    const next = await openEstante({ folder })
    try {
      const one = async (text: string) =>
        String(
          (
            await askCompany(next, { text, values: [], columns: [{ path: 'x', type: 'text' }] }).then(
              rows => rows.columns[0] as { values: string[] },
            )
          ).values[0],
        )
      const [customer, branch, item] = await Promise.all(
        ['customers', 'branches', 'items'].map(table => one(`select code from company.${table} order by id limit 1`)),
      )
      const invoice = { date: '2026-10-15', customer, branch, lines: [{ item, quantity: '3' }], freight: '' }
      const number = await next.sources.get('').desk!.post(tester, { kind: 'invoice', invoice })
      const kept = (await next.runs.get(tester, run.id))!
      expect([kept.state, kept.result!.rows, kept.result!.pages]).toEqual(['done', run.result!.rows, run.result!.pages])
      expect(kept.outline).toEqual(run.outline)
      expect(await pagesOf(next, kept)).toBe(pages)
      expect([...kept.files.values()].map(file => file.format)).toEqual(['csv'])
      expect(await fileOf(next, kept, { format: 'csv', level: 'lines' })).toBe(csv)
      expect(await fileOf(next, kept, { format: 'xml' })).toBe(xml)
      const later = await begin(next)
      await later.over
      expect(await pagesOf(next, later)).toContain(number)
      const [behind] = await next.runs.files.behind(tester, kept, { page: 0, path: ['invoice', 'total'] } as never).catch(() => [undefined])
      expect(behind === undefined || Array.isArray(behind.rows)).toBe(true)
    } finally {
      await next.close()
    }
  })

  it('a run that took the program down again and again is given up, one whose files are gone says so', async () => {
    const folder = demoData()
    const first = await openEstante({ folder })
    const ids = await Promise.all([1, 2, 3].map(() => begin(first).then(async run => (await run.over, run.id))))
    // as a program that was killed leaves them
    const left = { state: 'running' as const, instance: 'gone', leaseUntil: new Date(0) }
    await tables(first)
      .update(runs)
      .set({ ...left, attempt: 3 })
      .where(eq(runs.id, ids[0]!))
    await tables(first)
      .update(runs)
      .set({ ...left, attempt: 1 })
      .where(eq(runs.id, ids[1]!))
    await tables(first)
      .update(runs)
      .set({ ...left, attempt: 2 })
      .where(eq(runs.id, ids[2]!))
    rmSync(join(folder, 'runs', ids[1]!, 'input.json'))
    await first.close()
    const next = await openEstante({ folder })
    try {
      const state = async (id: string) => {
        for (;;) {
          const row = (await next.store.runs.find(id))!
          if (row.state !== 'running' && row.state !== 'waiting') return [row.state, (row.sentences as string[] | null)?.join(' ') ?? '']
          await new Promise(resolve => setTimeout(resolve, 50))
        }
      }
      expect(await Promise.all(ids.map(state))).toEqual([
        ['failed', 'Estante was stopped 3 times while this run was made; narrow it, or run it again.'],
        ['failed', 'What this run was asked with cannot be read any more; run the report again.'],
        ['done', ''],
      ])
    } finally {
      await next.close()
    }
  })
})

describe('runs of a folder', () => {
  let estante: Estante
  let folder: string
  beforeAll(async () => {
    folder = demoData()
    estante = await openEstante({ folder })
  })
  afterAll(() => estante.close())

  it('one that waits is cancelled before it begins, and another takes its turn', async () => {
    const [a, b, c, d] = await Promise.all([everything(), everything(), everything(), salesInvoice()].map(each => begin(estante, each, {})))
    await estante.runs.cancel(tester, c!.id)
    expect([c!.state, c!.sentences]).toEqual(['cancelled', ['The run was cancelled.']])
    for (const run of [a!, b!]) await estante.runs.cancel(tester, run.id)
    await Promise.all([a!, b!, d!].map(run => run.over))
    expect([a!.state, b!.state, d!.state]).toEqual(['cancelled', 'cancelled', 'done'])
    const rows = await Promise.all([a!, b!, c!, d!].map(run => estante.store.runs.find(run.id)))
    expect(rows.map(row => row!.state)).toEqual(['cancelled', 'cancelled', 'cancelled', 'done'])
    expect(existsSync(join(folder, 'runs', c!.id, 'pages'))).toBe(false)
  })

  it('of several people, whoever has fewest that run is next', async () => {
    const of = async (person: string) => {
      const context: Context = { person }
      return estante.runs.start(context, { ...(await estante.input(context, 'Report', everything(), {})), moment: 0 }, 'report')
    }
    const busy = [await of('ana'), await of('ana'), await of('ana'), await of('ana')]
    const other = await of('rui')
    await Promise.all([...busy, other].map(run => run.kept))
    const order: string[] = []
    ;[...busy.slice(2), other].forEach(run => void run.over.then(() => order.push(run.person)))
    await Promise.all([...busy, other].map(run => run.over))
    expect(order[0] === 'rui' || order[1] === 'rui').toBe(true)
    expect(order.at(-1)).toBe('ana')
  })

  it('somebody with twenty that are not done gets no more', async () => {
    const context: Context = { person: 'eager' }
    const input = { ...(await estante.input(context, 'Report', everything(), {})), moment: 0 }
    const all = Array.from({ length: 20 }, () => estante.runs.start(context, input, 'report'))
    await Promise.all(all.map(run => run.kept))
    await expect(estante.runs.needRoom(context)).rejects.toThrow('20 of your runs wait or run')
    await estante.runs.needRoom({ person: 'another' })
    await Promise.all(all.map(run => estante.runs.cancel(context, run.id)))
    await Promise.all(all.map(run => run.over))
    await estante.runs.needRoom(context)
  })

  it('one of a person who is removed while it waits does not begin', async () => {
    const own = await openEstante({ folder: demoData(), people: true })
    try {
      const admin = (await own.people.list(ownContext)).find(each => each.role === 'administrator')!
      const person = (await own.people.find(admin.id))!
      const context: Context = { person: person.id, signedIn: person }
      const begun = await Promise.all([1, 2, 3].map(() => own.input(context, 'Report', everything(), {})))
      const started = begun.map(input => own.runs.start(context, { ...input, moment: 0 }))
      await Promise.all(started.map(run => run.kept))
      await tables(own).execute(sql`update people set removed_at = now(), sign_in = null where id = ${person.id}`)
      ;(own.store as unknown as { rights: { forget: () => void } }).rights.forget()
      await own.recheck()
      await Promise.all(started.map(run => run.over))
      expect(started.map(run => run.state)).toEqual(['cancelled', 'cancelled', 'cancelled'])
    } finally {
      await own.close()
    }
  })

  it('the list is what a plain search of all rows finds', async () => {
    const income = await Promise.all([1, 2].map(() => begin(estante, statement('income'), { period: '2026-P06' })))
    await Promise.all(income.map(run => run.over))
    const all = await tables(estante).select().from(runs)
    const day = (date: Date) =>
      `${date.getFullYear()}-${String(date.getMonth() + 1).padStart(2, '0')}-${String(date.getDate()).padStart(2, '0')}`
    const reports = [...new Set(all.map(each => each.reportId)), 'nowhere']
    const option = <T>(values: readonly T[]) => fc.option(fc.constantFrom(...values), { nil: undefined })
    await fc.assert(
      fc.asyncProperty(option(reports), option(runStates), option([day(new Date()), '2020-01-01']), async (report, state, on) => {
        const filter = { ...(report === undefined ? {} : { report }), ...(state ? { state } : {}), ...(on ? { day: on } : {}) }
        const found = (await estante.runs.list(tester, filter)).map(each => each.row.id)
        const naive = all
          .filter(
            row =>
              (report === undefined || row.reportId === report) && (!state || row.state === state) && (!on || day(row.createdAt) === on),
          )
          .sort((one, other) => +other.createdAt - +one.createdAt || (other.id < one.id ? -1 : 1))
        expect(found).toEqual(naive.map(row => row.id))
        expect(await estante.store.runs.count(tester, filter)).toBe(naive.length)
      }),
      { numRuns: 30 },
    )
    const [newest] = await estante.runs.list(tester)
    expect(await runInfo(tester, estante, newest!)).toMatchObject({ state: 'done', earlier: expect.any(String), mine: true, pinned: false })
  })

  it('others’ runs are seen by administrators only', async () => {
    const someone = (id: string, role: Role): Context => ({ person: id, signedIn: { id, name: id, signIn: id, role, teams: [] } })
    const [ana, rui, boss] = [someone('ana', 'reader'), someone('rui', 'reader'), someone('boss', 'administrator')]
    const run = estante.runs.start(
      ana,
      { ...(await estante.input(ana, 'Report', salesInvoice(), { month: '2026-10' })), moment: 0 },
      'report',
    )
    await run.over
    const ids = async (context: Context) => (await estante.runs.list(context)).map(each => each.row.id)
    expect(await ids(ana)).toEqual([run.id])
    expect(await ids(rui)).toEqual([])
    expect((await ids(boss)).includes(run.id)).toBe(true)
    expect((await estante.runs.list(boss, { person: 'ana' })).map(each => each.row.id)).toEqual([run.id])
    expect(await estante.runs.get(rui, run.id)).toBeUndefined()
  })

  it('the newest are kept, and what is pinned; the others go with their files', async () => {
    const all = []
    for (let each = 0; each < 5; each++) {
      const run = await begin(estante, salesInvoice(), { month: '2026-10', customer: 'C-0001' })
      await run.over
      all.push(run)
    }
    await estante.runs.pin(tester, all[0]!, true)
    await estante.store.saveKeeping(tester, { runs: 2, days: 30 })
    await estante.runs.sweep()
    const left = (await tables(estante).select().from(runs)).map(row => row.id)
    expect(left.sort()).toEqual([all[0]!.id, all[3]!.id, all[4]!.id].sort())
    for (const run of all) expect(existsSync(join(folder, 'runs', run.id))).toBe(left.includes(run.id))
    // by days: one that is older goes, pinned or not counts
    await tables(estante)
      .update(runs)
      .set({ createdAt: new Date(Date.now() - 40 * 86_400_000) })
    await estante.runs.sweep()
    expect((await tables(estante).select().from(runs)).map(row => row.id)).toEqual([all[0]!.id])
    expect(readFileSync(join(folder, 'runs', all[0]!.id, 'input.json'), 'utf8')).toContain('C-0001')
  })
})

describe('two programs on one store', () => {
  let server: TestServer
  const apps: Estante[] = []
  beforeAll(async () => {
    server = startServer()
    process.env.ESTANTE_RUNS = temporaryFolder()
    for (let each = 0; each < 2; each++) apps.push(await openEstante({ folder: demoData(), databaseUrl: server.url }))
  }, 120_000)
  afterAll(async () => {
    delete process.env.ESTANTE_RUNS
    await Promise.all(apps.map(app => app.close()))
    removeServer(server)
  })

  it('share the runs of both, each done once; either opens what the other has done', async () => {
    const [one, other] = apps as [Estante, Estante]
    const started = await Promise.all(Array.from({ length: 12 }, () => begin(one, everything(), {})))
    await Promise.all(started.map(run => run.kept))
    const ended = async () => {
      for (;;) {
        const rows = await Promise.all(started.map(run => other.store.runs.find(run.id)))
        if (rows.every(row => row!.state === 'done')) return rows
        expect(rows.some(row => row!.state === 'failed')).toBe(false)
        await new Promise(resolve => setTimeout(resolve, 200))
      }
    }
    const rows = await ended()
    expect(new Set(rows.map(row => row!.instance)).size).toBe(2)
    expect(rows.map(row => [row!.instance, row!.attempt])).toEqual(rows.map(row => [row!.instance, 1]))
    const texts = await Promise.all(started.map(async run => pagesOf(other, (await other.runs.get(tester, run.id))!)))
    expect(new Set(texts).size).toBe(1)
    expect(texts[0]!.length).toBeGreaterThan(1000)
    const back = await Promise.all(started.map(async run => (await one.runs.get(tester, run.id))!))
    expect(back.map(run => run.state)).toEqual(back.map(() => 'done'))
  }, 120_000)

  it('a run is cancelled from the other one', async () => {
    const [one, other] = apps as [Estante, Estante]
    const run = await begin(one, everything(), {})
    await run.kept
    const seen = (await other.runs.get(tester, run.id))!
    if (seen.elsewhere) {
      await other.runs.cancel(tester, run.id)
      expect((await other.store.runs.find(run.id))!.stopped || run.state === 'done').toBe(true)
    }
    await run.over
  }, 60_000)

  it('takes over what one that was killed has left, once its time is up', async () => {
    const [one, other] = apps as [Estante, Estante]
    const run = await begin(one)
    await run.over
    await tables(one)
      .update(runs)
      .set({ state: 'running', instance: 'gone', leaseUntil: new Date(Date.now() + 1500) })
      .where(eq(runs.id, run.id))
    expect((await other.store.runs.find(run.id))!.instance).toBe('gone')
    for (let left = 200; left && (await other.store.runs.find(run.id))!.state !== 'done'; left--)
      await new Promise(resolve => setTimeout(resolve, 100))
    const row = (await other.store.runs.find(run.id))!
    expect([row.state, row.attempt]).toEqual(['done', 2])
    expect(row.instance).not.toBe('gone')
  }, 60_000)
})
