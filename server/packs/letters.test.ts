import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { mailAddresses } from '../../core/pack/mailAddress'
import type { PackDefinition } from '../../core/pack/definition'
import { askCompany, demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { DeliveryRow } from '../store/deliveryRows'
import type { PackRunRow } from '../store/packRunRows'
import type { MadeFile, MailContent } from './toSend'

/* Documents that go out by their records: whom they reach and what they say is held against the tables and against other programs. */

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function ended(id: string): Promise<PackRunRow> {
  for (;;) {
    const run = (await estante.store.packRuns.find(id))!
    if (!['waiting', 'running', 'sending'].includes(run.state)) return run
    await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 300))])
  }
}
const pack = async (name: string) => (await estante.store.packs.list(tester)).find(each => each.name === name)!
const textOf = (bytes: Buffer | string) =>
  execFileSync('pdftotext', ['-layout', typeof bytes === 'string' ? bytes : '-', '-'], {
    encoding: 'utf8',
    ...(typeof bytes === 'string' ? {} : { input: bytes }),
  })
/** Codes of customers, as the heading of each statement says them; credit notes have numbers like these. */
const codesIn = (text: string) => [...new Set([...text.matchAll(/(?:Customer|Cliente|Kunde) (C-\d{4})/g)].map(each => each[1]!))]
const path = (run: PackRunRow, format: string) =>
  join(estante.runFolder.of(run.id), (run.files as MadeFile[]).find(each => each.format === format)!.file)
async function customers(): Promise<Map<string, { email: string; language: string; name: string }>> {
  const rows = await askCompany(estante, {
    text: `select code, coalesce(email, ''), language, name from company.customers order by id`,
    values: [],
    columns: ['code', 'email', 'language', 'name'].map(each => ({ path: each, type: 'text' as const })),
  })
  const [codes, emails, languages, names] = rows.columns.map(each => (each as { values: string[] }).values)
  return new Map(codes!.map((code, at) => [code, { email: emails![at]!, language: languages![at]!, name: names![at]! }]))
}

describe('statements to customers', () => {
  let run: PackRunRow
  let deliveries: DeliveryRow[]
  let known: Awaited<ReturnType<typeof customers>>
  /** codes on the pages of the whole, as another program reads them */
  let printed: string[]
  beforeAll(async () => {
    run = await ended((await estante.packs.start(tester, await pack('Statements to customers'), { answers: {} }))!)
    expect([run.state, run.sentences]).toEqual(['held', null])
    deliveries = await estante.store.deliveries.of(run.id)
    known = await customers()
    printed = codesIn(textOf(path(run, 'pdf')))
  }, 240_000)
  const codeOf = (row: DeliveryRow) => /C-\d{4}/.exec(row.about)![0]

  it('are one letter to each customer who has one, in their order, to the address of their record', () => {
    expect(deliveries.map(codeOf)).toEqual(printed)
    expect(deliveries.length).toBeGreaterThan(100)
    expect(new Set(deliveries.map(each => each.messageId)).size).toBe(deliveries.length)
    for (const each of deliveries) {
      const { email } = known.get(codeOf(each))!
      const plain = /^[a-z0-9]+@[a-z0-9]+\.example$/.test(email)
      expect([codeOf(each), each.state]).toEqual([codeOf(each), plain ? 'ready' : 'unaddressed'])
      if (plain) expect(each.to).toEqual([email])
      else
        expect(each.said).toMatch(
          email ? /“by, post, only” is no mail address\.|no mail address/ : /There is no mail address in this record\./,
        )
    }
    expect(deliveries.some(each => each.state === 'unaddressed')).toBe(true)
  })

  it('those without an address are on paper in one file, and nobody else is', () => {
    const lone = deliveries.filter(each => each.state === 'unaddressed').map(codeOf)
    expect(codesIn(textOf(path(run, 'rest')))).toEqual(lone)
  })

  it('once let go, arrive in the language of each, with the pages and the figure that stand on them', async () => {
    const before = (await estante.outbox.list(0, 0)).all
    await estante.packs.decide(tester, run.id, true, 'looked at')
    expect((await ended(run.id)).state).toBe('done')
    const sent = (await estante.store.deliveries.of(run.id)).filter(each => each.state === 'sent')
    const ready = deliveries.filter(each => each.state === 'ready')
    expect(sent.map(each => each.id)).toEqual(ready.map(each => each.id))
    const list = await estante.outbox.list(0, 20_000)
    expect(list.all).toBe(before + ready.length)
    const words = {
      pt: { subject: 'Extrato de conta', title: 'Extrato de conta', open: 'Total em aberto', body: /estão em aberto (\S+) EUR/ },
      nb: { subject: 'Kontoutskrift', title: 'Kontoutskrift', open: 'Åpent i alt', body: /: ([\d\s.,-]+?) NOK er åpent/ },
      en: { subject: 'Statement of account', title: 'Statement of account', open: 'Open in all', body: /: (\S+) GBP are open/ },
    }
    for (const [language, { subject, title, open, body }] of Object.entries(words)) {
      const own = sent.find(each => known.get(codeOf(each))!.language === language)!
      const found = list.letters.find(each => each.messageId === own.messageId)!
      expect(found.to).toEqual([known.get(codeOf(own))!.email])
      const { letter } = (await estante.outbox.letter(found.id))!
      expect(letter.subject).toContain(subject)
      expect(letter.headers.get('content-language')).toBe(language)
      const text = textOf(letter.attachments[0]!.content)
      expect(text).toContain(title)
      expect(text).toContain(codeOf(own))
      expect(codesIn(text)).toEqual([codeOf(own)])
      const figure = body.exec(letter.text ?? '')![1]!
      const plain = (shown: string) => shown.replace(/\s/g, ' ')
      expect(plain(text.slice(text.indexOf(open)))).toContain(plain(figure))
    }
  }, 240_000)
})

describe('a pack that goes out by its records', () => {
  const changed = async (change: (each: PackDefinition) => PackDefinition) => {
    const found = await pack('Statements to customers')
    return { ...found, definition: change({ ...structuredClone(found.definition), hold: 'never' }) }
  }
  const records = (each: PackDefinition) => each.to[0] as PackDefinition['to'][number] & { is: 'records' }

  it('says what is wrong with an address, a text or a layout, and sends nothing', async () => {
    const sentences = async (change: (each: PackDefinition) => PackDefinition) => {
      const run = await ended((await estante.packs.start(tester, await changed(change), { answers: {} }))!)
      expect(await estante.store.deliveries.of(run.id)).toEqual([])
      return [run.state, ...(run.sentences as string[])].join('\n')
    }
    const field = await sentences(each => ({ ...each, to: [{ ...records(each), address: 'mail_address' }] }))
    expect(field).toMatch(/^failed\n.*mail_address/s)
    expect(await sentences(each => ({ ...each, to: [{ ...records(each), address: 'credit_limit' }] }))).toContain('is no text')
    expect(await sentences(each => ({ ...each, to: [{ ...records(each), subject: 'For {{ nam }}' }] }))).toMatch(/“nam”/)
    const ageing = (await estante.store.library(tester)).flatMap(each => each.reports).find(each => each.name === 'Customer ageing')!
    expect(
      await sentences(each => ({
        ...each,
        reports: [{ id: 'statement', report: ageing.id, name: ageing.name, answers: {} }],
        to: [{ ...records(each), address: '"a@b.example"', subject: '', body: '', name: '', inLanguages: [] }],
      })),
    ).toContain('needs a layout that begins each of them on pages of its own')
  }, 240_000)

  it('two documents of one name to one address are two letters', async () => {
    const own = await changed(each => ({
      ...each,
      to: [{ ...records(each), address: '"all@harbour.example"', name: 'Statement', inLanguages: [] }],
    }))
    const run = await ended((await estante.packs.start(tester, own, { answers: {}, dry: true }))!)
    const rows = await estante.store.deliveries.of(run.id)
    expect(rows.length).toBeGreaterThan(100)
    expect(new Set(rows.map(each => each.messageId)).size).toBe(rows.length)
    expect(new Set(rows.map(each => (each.content as MailContent).files[0]!.file)).size).toBe(rows.length)
  }, 240_000)

  it('goes to several addresses of one field, and to none where one of them is wrong', () => {
    expect(mailAddresses('a@x.example; b@y.example, a@x.example')).toEqual({ to: ['a@x.example', 'b@y.example'], wrong: [] })
    expect(mailAddresses('a@x.example or call')).toEqual({ to: ['a@x.example'], wrong: ['or', 'call'] })
    expect(mailAddresses('  ')).toEqual({ to: [], wrong: [] })
  })
})

describe('sheets of paper', () => {
  it('wait at a printer that has none, and are printed once there is; the printer has the very file', async () => {
    await estante.printer.paper(false)
    const own = await pack('Reorder Monday')
    const run = await ended((await estante.packs.start(tester, own, { answers: {} }))!)
    expect([run.state, run.sentences]).toEqual(['done', null])
    const sheet = async () => (await estante.store.deliveries.of(run.id)).find(each => each.kind === 'print')!
    const until = async (test: (row: DeliveryRow) => boolean) => {
      for (let row = await sheet(); ; row = await sheet()) {
        if (test(row)) return row
        await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 300))])
      }
    }
    const waiting = await until(row => row.said?.includes('media-empty') === true)
    expect(waiting.state).toBe('sending')
    await estante.printer.paper(true)
    const printed = await until(row => row.state === 'sent')
    expect(printed.said).toMatch(/^Job \d+ is printed\.$/)
    const [job] = await estante.printer.list()
    expect(job).toMatchObject({ copies: 1, sides: 'two-sided-long-edge', state: 'printed' })
    expect(readFileSync(estante.printer.sheets(job!.job)).equals(readFileSync(path(run, 'pdf')))).toBe(true)
    const book = path(run, 'xlsx')
    writeFileSync(`${book}.check`, '')
    const sheets = execFileSync('python3', [
      '-c',
      'import sys,zipfile,re;b=zipfile.ZipFile(sys.argv[1]).read("xl/workbook.xml").decode();' +
        'print(re.findall(r"<sheet [^>]*name=.([^\\"]*).",b))',
      book,
    ]).toString()
    expect(sheets).toContain('Reorder list')
    expect(sheets).toContain('Open order lines')
  }, 240_000)

  it('that no printer takes are refused in its words', async () => {
    const own = await pack('Reorder Monday')
    const to = own.definition.to.filter(each => each.is === 'print')
    await estante.store.company.savePrinters(tester, [{ id: 'gone', name: 'Gone', address: 'ipp://127.0.0.1:9/ipp/print' }])
    const away = { ...own, definition: { ...own.definition, to: to.map(each => ({ ...each, printer: 'gone' })) } }
    const run = await ended((await estante.packs.start(tester, away, { answers: {} }))!)
    expect((await estante.store.deliveries.of(run.id)).map(each => [each.state, each.said])).toEqual([
      ['refused', expect.stringContaining('ECONNREFUSED')],
    ])
    const none = { ...own, definition: { ...own.definition, to: to.map(each => ({ ...each, printer: 'nowhere' })) } }
    const second = await ended((await estante.packs.start(tester, none, { answers: {} }))!)
    expect((await estante.store.deliveries.of(second.id)).map(each => each.state)).toEqual(['unaddressed'])
  }, 240_000)
})
