import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { PackTieResult } from '../../core/api/packs'
import type { PackDefinition } from '../../core/pack/definition'
import { askCompany, demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { Database } from '../store/database'
import { deliveries, packRuns } from '../store/schema'
import type { PackRunRow } from '../store/packRunRows'
import type { MadeFile } from './toSend'

/* A pack over the demo company: what it prints is read by another program, what it sends is read back out of the outbox. */

let estante: Estante
let folder: string
beforeAll(async () => {
  folder = demoData()
  estante = await openEstante({ folder })
})
afterAll(() => estante.close())

async function ended(id: string): Promise<PackRunRow> {
  for (;;) {
    const run = (await estante.store.packRuns.find(id))!
    if (!['waiting', 'running', 'sending'].includes(run.state)) return run
    await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 300))])
  }
}
const monthEnd = async () => (await estante.store.packs.list(tester)).find(each => each.name === 'Month end')!
const changed = async (change: (pack: PackDefinition) => PackDefinition) => {
  const pack = await monthEnd()
  return { ...pack, definition: change(structuredClone(pack.definition)) }
}
const file = (run: PackRunRow, format: string) => {
  const made = (run.files as MadeFile[]).find(each => each.format === format)!
  return join(estante.runFolder.of(run.id), made.file)
}
const textOf = (path: string, ...options: string[]) => execFileSync('pdftotext', ['-layout', ...options, path, '-'], { encoding: 'utf8' })
const one = async (text: string) => {
  const rows = await askCompany(estante, { text, values: [], columns: [{ path: 'x', type: 'text' }] })
  return String((rows.columns[0] as { values: string[] }).values[0])
}

describe('the month end', () => {
  let run: PackRunRow
  beforeAll(async () => {
    run = await ended((await estante.packs.start(tester, await monthEnd(), { answers: {} }))!)
  }, 120_000)

  it('runs all its reports, one for each branch, and says which period that was', async () => {
    expect([run.state, run.sentences]).toEqual(['done', null])
    const parts = await estante.store.runs.partsOf(run.id)
    expect(parts.map(each => each.state)).toEqual(parts.map(() => 'done'))
    const branches = Number(await one('select count(*)::text from company.branches'))
    expect(parts.length).toBe(6 + branches)
    expect(
      new Set(parts.map(each => (each.answers as Record<string, string>).period ?? (each.answers as Record<string, string>).asOf)).size,
    ).toBe(2)
    expect(run.asked).toEqual([expect.stringMatching(/^Period: /)])
  })

  it('ties out across its reports, by figures that are in the books', () => {
    const ties = run.ties as PackTieResult[]
    expect(ties.filter(each => !each.holds)).toEqual([])
    const across = ties.filter(each => each.report === undefined)
    expect(across.map(each => each.id)).toEqual(['result', 'branches'])
    expect(across[0]!.left).toBe(across[1]!.right)
    expect(Number(across[0]!.left)).not.toBe(0)
  })

  it('is one PDF: cover, contents with the right pages, all numbered, with an outline', () => {
    const text = textOf(file(run, 'pdf'))
    const pages = text.split('\f').slice(0, -1)
    expect(pages[0]).toContain('Month end')
    expect(pages[0]).toContain('tie-outs hold.')
    pages.forEach((page, at) => expect(page).toContain(`${at + 1} / ${pages.length}`))
    const contents = [...pages[0]!.matchAll(/^\s*(.+?)\s{3,}(\d+)\s*$/gm)].map(([, title, page]) => ({ title: title!, page: Number(page) }))
    expect(contents.length).toBeGreaterThanOrEqual(9)
    for (const { title, page } of contents) {
      const name = title.split(' · ')[0]!
      expect(pages[page - 1], `${title} on page ${page}`).toContain(
        name === 'Customer ageing' || name === 'Supplier ageing' ? 'ageing' : name.split(' ')[0]!,
      )
    }
    const outline = execFileSync(
      'python3',
      ['-c', 'import sys;d=open(sys.argv[1],"rb").read();print(d.count(b"/Title"))', file(run, 'pdf')],
      { encoding: 'utf8' },
    )
    // the file's own title is one of them
    expect(Number(outline)).toBeGreaterThan(contents.length)
  })

  it('is a ZIP with a PDF for each report', () => {
    const names = Object.keys(unzipSync(new Uint8Array(readFileSync(file(run, 'zip')))))
    expect(names).toContain('Balance sheet.pdf')
    expect(new Set(names).size).toBe(names.length)
    expect(names.length).toBeGreaterThanOrEqual(9)
  })

  it('is sent: letters with the PDF in the outbox, files in their folder', async () => {
    const deliveries = await estante.store.deliveries.of(run.id)
    expect(deliveries.map(each => [each.kind, each.state])).toEqual([
      ['mail', 'sent'],
      ['mail', 'sent'],
      ['file', 'sent'],
      ['file', 'sent'],
    ])
    const { letters } = await estante.outbox.list(0, 10)
    expect(letters.map(each => each.to[0]).sort()).toEqual(['board@caisvelho.example', 'finance@caisvelho.example'])
    const { letter } = (await estante.outbox.letter(letters[0]!.id))!
    expect(letter.subject).toMatch(/^Month end .*2026/)
    expect(letter.text).toContain('All figures are of one moment')
    expect(letter.attachments[0]!.content.equals(readFileSync(file(run, 'pdf')))).toBe(true)
    expect(letter.attachments[0]!.filename).toMatch(/^Month end .*\.pdf$/)
    const path = join(folder, 'delivered', (deliveries[2]!.to as string[])[0]!)
    expect(path).toContain(join('delivered', 'Month end'))
    expect(readFileSync(path).equals(readFileSync(file(run, 'pdf')))).toBe(true)
  })
})

describe('one moment', () => {
  it('all reports of a pack show the same, whatever is posted meanwhile', async () => {
    const pack = await changed(each => ({
      ...each,
      reports: Array.from({ length: 4 }, (_, at) => ({ ...each.reports[0]!, id: `again${at}`, each: undefined as never })).map(
        ({ each: _, ...own }) => own,
      ),
      ties: [{ ...each.ties[0]!, left: { ...each.ties[0]!.left, report: 'again0' }, right: { ...each.ties[0]!.left, report: 'again3' } }],
      parameters: [{ ...each.parameters[0]!, default: 'period(today())' }],
      to: [],
      out: { ...each.out, cover: false },
    }))
    const id = (await estante.packs.start(tester, pack, { answers: {} }))!
    const [customer, branch, item] = await Promise.all(
      ['customers', 'branches', 'items'].map(table => one(`select code from company.${table} order by id limit 1`)),
    )
    const today = await one('select max(invoice_date)::text from company.invoices')
    const post = () =>
      estante.sources
        .get('')
        .desk!.post(tester, { kind: 'invoice', invoice: { date: today, customer, branch, lines: [{ item, quantity: '5' }], freight: '' } })
    const posted = Promise.all([post(), post(), post()])
    const run = await ended(id)
    await posted
    expect([run.state, run.sentences]).toEqual(['done', null])
    expect((run.ties as PackTieResult[]).filter(each => each.report === undefined).map(each => each.difference)).toEqual(['0'])
    const parts = await estante.store.runs.partsOf(run.id)
    const texts = await Promise.all(
      parts.map(async part => (await estante.runs.files.pages(tester, (await estante.runs.get(tester, part.id))!, 0, 100)).join()),
    )
    expect(new Set(texts).size).toBe(1)
  }, 60_000)
})

describe('holding', () => {
  const failing = () =>
    changed(each => ({
      ...each,
      reports: each.reports.slice(0, 2),
      ties: [
        {
          id: 'never',
          name: 'Cannot hold',
          left: each.ties[0]!.left,
          right: { report: 'balance_sheet', figure: { is: 'line', statement: 'statement', line: 'totalAssets', column: 'now' } },
          tolerance: '0',
        },
      ],
      to: [each.to[0]!],
    }))

  it('what does not tie out sends nothing; let go, it sends exactly the files that were looked at', async () => {
    const before = (await estante.outbox.list(0, 1)).all
    const held = await ended((await estante.packs.start(tester, await failing(), { answers: {} }))!)
    expect(held.state).toBe('held')
    expect((held.ties as PackTieResult[]).find(each => each.id === 'never')).toMatchObject({
      holds: false,
      difference: expect.stringMatching(/\d/),
    })
    expect((await estante.outbox.list(0, 1)).all).toBe(before)
    expect(textOf(file(held, 'pdf'), '-l', '1')).toContain('Cannot hold')
    const looked = readFileSync(file(held, 'pdf'))
    await expect(estante.packs.decide(tester, held.id, true, 'Checked with the auditor')).resolves.toBeUndefined()
    const sent = await ended(held.id)
    expect([sent.state, sent.reason]).toEqual(['done', 'Checked with the auditor'])
    const { all, letters } = await estante.outbox.list(0, 2)
    expect(all).toBe(before + 2)
    for (const each of letters) {
      const { letter } = (await estante.outbox.letter(each.id))!
      expect(letter.attachments[0]!.content.equals(looked)).toBe(true)
    }
    await expect(estante.packs.decide(tester, held.id, false, 'again')).rejects.toThrow('not held any more')
  }, 60_000)

  it('what is dropped sends nothing, a dry run neither', async () => {
    const before = (await estante.outbox.list(0, 1)).all
    const held = await ended((await estante.packs.start(tester, await failing(), { answers: {} }))!)
    await estante.packs.decide(tester, held.id, false, 'Wrong month')
    expect((await ended(held.id)).state).toBe('dropped')
    const dry = await ended((await estante.packs.start(tester, await monthEnd(), { answers: {}, dry: true }))!)
    expect(dry.state).toBe('done')
    expect((await estante.store.deliveries.of(dry.id)).map(each => each.state)).toEqual(['ready', 'ready', 'ready', 'ready'])
    expect((await estante.outbox.list(0, 1)).all).toBe(before)
    expect((await estante.store.deliveries.of(held.id)).map(each => each.state)).toEqual(['dropped', 'dropped'])
  }, 60_000)
})

describe('what goes wrong', () => {
  const small = (change: (pack: PackDefinition) => PackDefinition) =>
    changed(each => change({ ...each, reports: each.reports.slice(0, 1), ties: [], to: [] }))
  const outcome = async (change: (pack: PackDefinition) => PackDefinition, answers: Record<string, string> = {}) => {
    const run = await ended((await estante.packs.start(tester, await small(change), { answers }))!)
    return { run, said: ((run.sentences as string[] | null) ?? []).join(' ') }
  }

  it('is said in a sentence: answers, reports and parameters that are gone, folders outside, texts that cannot be printed', async () => {
    expect((await outcome(each => each, { period: '2031-P01' })).said).toMatch(/2031-P01/)
    expect((await outcome(each => ({ ...each, reports: [] }))).said).toBe('The pack has no reports yet; add one.')
    expect((await outcome(each => ({ ...each, reports: [{ ...each.reports[0]!, report: 'nowhere' }] }))).said).toMatch(/report/)
    expect(
      (await outcome(each => ({ ...each, reports: [{ ...each.reports[0]!, answers: { gone: { is: 'text', text: 'x' } } }] }))).said,
    ).toBe('“Income statement”: there is no parameter “gone” any more; take its answer out of the pack.')
    expect(
      (await outcome(each => ({ ...each, to: [{ is: 'folder', id: 'x', folder: '../../etc', files: ['pdf'], replace: false }] }))).said,
    ).toMatch(/is outside of it/)
    expect(
      (
        await outcome(each => ({
          ...each,
          to: [{ is: 'mail', id: 'x', to: ['a@b.example'], subject: '{{ param.nothing }}', body: '', files: [] }],
        }))
      ).said,
    ).toMatch(/cannot be printed/)
    expect(existsSync('/etc/Month end.pdf')).toBe(false)
  }, 60_000)

  it('what cannot be sent is listed, the rest goes: no address, a file that is there already', async () => {
    const to: PackDefinition['to'] = [
      {
        is: 'mail',
        id: 'letters',
        to: ['nobody', 'fine@b.example', 'FINE@b.example', 'x y@b.example'],
        subject: 'S',
        body: 'B',
        files: [],
      },
      { is: 'folder', id: 'folder', folder: 'twice', files: ['pdf'], replace: false },
    ]
    const states = async () => {
      const { run } = await outcome(each => ({ ...each, to }))
      return (await estante.store.deliveries.of(run.id)).map(each => [(each.to as string[])[0]!.split('/').at(-1), each.state])
    }
    const letters = [
      ['nobody', 'unaddressed'],
      ['fine@b.example', 'sent'],
      ['x y@b.example', 'unaddressed'],
    ]
    expect((await states()).slice(0, 3)).toEqual(letters)
    const again = await states()
    expect(again.slice(0, 3)).toEqual(letters)
    expect(again[3]![1]).toBe('refused')
  }, 60_000)

  it('an occasion is begun once', async () => {
    const pack = await small(each => each)
    const begun = await Promise.all([1, 2, 3].map(() => estante.packs.start(tester, pack, { answers: {}, occasion: '2026-11-03T07:00' })))
    expect(begun.filter(Boolean)).toHaveLength(1)
    expect(await estante.packs.start(tester, pack, { answers: {}, occasion: '2026-11-03T07:00' })).toBeUndefined()
    await ended(begun.find(Boolean)!)
  }, 60_000)
})

it('files of runs that are older than is kept go, and what they came to stays in the history', async () => {
  const pack = await changed(each => ({ ...each, reports: each.reports.slice(0, 1), ties: [], to: [each.to[0]!] }))
  const [old, fresh] = [0, 1].map(() => estante.packs.start(tester, pack, { answers: {} }))
  const [first, second] = [await ended((await old)!), await ended((await fresh)!)]
  const parts = await estante.store.runs.partsOf(first.id)
  const { days } = await estante.store.keeping()
  const tables = (estante.store as unknown as { db: Database }).db
  const then = new Date(Date.now() - (days + 1) * 86_400_000)
  await tables.update(packRuns).set({ endedAt: then }).where(eq(packRuns.id, first.id))
  await estante.packs.sweep()
  expect(existsSync(estante.runFolder.of(first.id))).toBe(false)
  for (const each of parts) expect(existsSync(estante.runFolder.of(each.id))).toBe(false)
  const row = (await estante.store.packRuns.find(first.id))!
  expect([row.files, row.state, (await estante.store.deliveries.of(first.id)).length]).toEqual([[], 'done', 2])
  expect(existsSync(file(second, 'pdf'))).toBe(true)
}, 60_000)

it('a program that is stopped in the middle goes on with the pack, and sends each letter once', async () => {
  const own = demoData()
  const first = await openEstante({ folder: own })
  const pack = (await first.store.packs.list(tester)).find(each => each.name === 'Month end')!
  const id = (await first.packs.start(tester, pack, { answers: {} }))!
  while ((first.packs.progressOf(id)?.done ?? 0) < 2) await new Promise(resolve => setTimeout(resolve, 20))
  await first.close()
  const next = await openEstante({ folder: own })
  try {
    for (;;) {
      const run = (await next.store.packRuns.find(id))!
      if (run.state === 'done') break
      expect(['waiting', 'running', 'sending']).toContain(run.state)
      await new Promise(resolve => setTimeout(resolve, 100))
    }
    const { letters } = await next.outbox.list(0, 100)
    expect(letters.map(each => each.to[0]).sort()).toEqual(['board@caisvelho.example', 'finance@caisvelho.example'])
  } finally {
    await next.close()
  }
}, 120_000)

it('what an interrupted beginning wrote down goes with it: letters bring what is of their own moment', async () => {
  const pack = await changed(each => ({ ...each, reports: each.reports.slice(0, 1), ties: [], to: [each.to[0]!], hold: 'always' as const }))
  const first = await ended((await estante.packs.start(tester, pack, { answers: {} }))!)
  const wanted = (await estante.store.deliveries.of(first.id)).map(each => [each.to, each.messageId])
  // as a kill between the last letter that was written down and the state leaves it, with records that have changed since
  const tables = (estante.store as unknown as { db: Database }).db
  await tables
    .update(deliveries)
    .set({ to: ['somebody.else@b.example'] })
    .where(eq(deliveries.packRunId, first.id))
  await tables.update(packRuns).set({ state: 'running', instance: null, leaseUntil: null }).where(eq(packRuns.id, first.id))
  estante.packs.next()
  const again = await ended(first.id)
  expect([again.state, again.attempt]).toEqual(['held', 2])
  expect((await estante.store.deliveries.of(first.id)).map(each => [each.to, each.messageId])).toEqual(wanted)
}, 60_000)

it('what was being sent when a program was killed is uncertain, and waits for somebody’s word', async () => {
  const pack = await changed(each => ({ ...each, reports: each.reports.slice(0, 1), ties: [], to: [each.to[0]!], hold: 'always' as const }))
  const held = await ended((await estante.packs.start(tester, pack, { answers: {} }))!)
  const [letter] = await estante.store.deliveries.of(held.id)
  // as a kill between the letter and its answer leaves it
  await estante.store.deliveries.mark(letter!.id, ['ready'], { state: 'sending' })
  const before = (await estante.outbox.list(0, 1)).all
  await estante.packs.decide(tester, held.id, true, 'fine')
  await ended(held.id)
  expect((await estante.store.deliveries.of(held.id)).map(each => each.state)).toEqual(['uncertain', 'sent'])
  expect((await estante.outbox.list(0, 1)).all).toBe(before + 1)
  expect(await estante.packs.decideDelivery(tester, letter!.id, true)).toBe(true)
  await ended(held.id)
  expect((await estante.store.deliveries.of(held.id)).map(each => each.state)).toEqual(['sent', 'sent'])
  expect(await estante.packs.decideDelivery(tester, letter!.id, true)).toBe(false)
  const { letters } = await estante.outbox.list(0, 1)
  expect(letters[0]!.messageId).toBe(letter!.messageId)
}, 60_000)
