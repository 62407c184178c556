import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { PackDefinition } from '../../core/pack/definition'
import { demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { PackRunRow } from '../store/packRunRows'
import { joinedPages, tooLarge, withText } from './letterPages'
import type { MailContent } from './toSend'

/* Pages that stand in letters themselves: their figures are held against those that another program reads in the PDF. */

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function runOf(change: (each: PackDefinition) => PackDefinition): Promise<PackRunRow> {
  const found = (await estante.store.packs.list(tester)).find(each => each.name === 'Statements to customers')!
  const definition = change({ ...structuredClone(found.definition), hold: 'never' })
  const id = (await estante.packs.start(tester, { ...found, definition }, { answers: {} }))!
  for (;;) {
    const run = (await estante.store.packRuns.find(id))!
    if (!['waiting', 'running', 'sending'].includes(run.state)) return run
    await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 300))])
  }
}
const amounts = (text: string) => [...text.matchAll(/(?<![\d.,])\d{1,3}(?:,\d{3})*\.\d\d(?![\d.,])/g)].map(each => each[0]).sort()
const shown = (html: string) => html.replace(/<[^>]*>/g, '\n').replaceAll('&amp;', '&')
const pdfText = (file: string) => execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' })

describe('pages in letters', () => {
  it('are the very figures of the PDF beside them, of this record and of no other', async () => {
    const run = await runOf(each => ({
      ...each,
      to: [{ ...(each.to[0] as PackDefinition['to'][number] & { is: 'records' }), pages: true }],
    }))
    expect([run.state, run.sentences]).toEqual(['done', null])
    const sent = (await estante.store.deliveries.of(run.id)).filter(each => each.state === 'sent')
    const folder = estante.runFolder.of(run.id)
    let compared = 0
    for (const row of sent) {
      const { html, files, language, body } = row.content as MailContent
      const pdf = pdfText(join(folder, files[0]!.file))
      const text = shown(readFileSync(join(folder, html!), 'utf8'))
      expect(text.match(/C-\d{4}/g)).toEqual(expect.arrayContaining([/C-\d{4}/.exec(row.about)![0]]))
      // what is carried from page to page stands on paper only, and other languages write figures otherwise
      if (language !== 'en' || pdf.trimEnd().includes('\f')) continue
      expect([row.about, amounts(text)]).toEqual([row.about, amounts(pdf)])
      compared++
      if (compared > 1) continue
      const list = await estante.outbox.list(0, 20_000)
      const { letter } = (await estante.outbox.letter(list.letters.find(each => each.messageId === row.messageId)!.id))!
      expect(letter.text).toContain(body.trim().split('\n')[0])
      expect(shown(letter.html || '')).toContain(body.trim())
      expect(amounts(shown(letter.html || '')).length).toBeGreaterThanOrEqual(amounts(pdf).length)
    }
    expect(compared).toBeGreaterThan(5)
  }, 240_000)

  it('of all reports are too many for a letter where they are more than mail programs show, and that is said', async () => {
    const run = await runOf(each => ({
      ...each,
      to: [{ is: 'mail', id: 'all', to: ['all@harbour.example'], subject: 'All', body: 'All of it.', files: [], pages: true }],
    }))
    const [row] = await estante.store.deliveries.of(run.id)
    expect([row!.state, row!.said]).toEqual(['refused', expect.stringMatching(/^Its pages are \d+\.\d MB as HTML/)])
    // somebody sends it without them
    await estante.packs.decideDelivery(tester, row!.id, true)
    for (let now = row!; now.state !== 'sent'; now = (await estante.store.deliveries.find(row!.id))!)
      await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 300))])
    const [last] = (await estante.outbox.list(0, 1)).letters
    const { letter } = (await estante.outbox.letter(last!.id))!
    expect([letter.text?.trim(), letter.html]).toEqual(['All of it.', false])
  }, 240_000)

  it('stand one after another under their titles, after the text of the letter', () => {
    const page = (inner: string) =>
      `<!doctype html>\n<html><head><title>a</title></head>\n<body style="margin:1px">\n${inner}</body>\n</html>\n`
    const joined = joinedPages('All & more', [
      { title: 'One <1>', html: page('<p>first</p>') },
      { title: 'Two', html: page('<p>$& second</p>') },
    ])
    expect(joined.match(/<body/g)).toHaveLength(1)
    expect(shown(withText(joined, 'Dear <you>,\n$1')).replace(/\s+/g, ' ')).toContain(
      'Dear &lt;you&gt;, $1 One &lt;1&gt; first Two $& second',
    )
    expect(joined).toContain('<title>All & more</title>'.replace('&', '&amp;'))
    expect([tooLarge(1_000_000), typeof tooLarge(1_000_001)]).toEqual([undefined, 'string'])
  })
})
