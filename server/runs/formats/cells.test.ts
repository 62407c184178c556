import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Output, readOutput } from '../../../core/api/outputs'
import { salesGrid } from '../../../demo/reports/grids'
import { askCompany, demoData, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunRecord } from '../runRecord'

let estante: Estante
let run: RunRecord
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
  const answers = { dates: '2025-01-01..2026-09-30' }
  run = estante.runs.start(tester, await estante.input(tester, 'Report', salesGrid(), answers), 'report')
  await run.over
})
afterAll(() => estante.close())
async function written(words: Record<string, string>): Promise<string> {
  const file = await estante.runs.files.written(tester, run, readOutput(words) as Exclude<Output, { format: 'svg' }>)
  const text = await file.readFile('utf8')
  await file.close()
  return text
}

describe('a crosstab as a file of text', () => {
  it('cell by cell adds up to what SQL gives, in CSV and JSON alike', async () => {
    const csv = (await written({ format: 'csv', crosstab: 'grid' })).trimEnd().split('\r\n')
    const json = JSON.parse(await written({ format: 'json', crosstab: 'grid' })) as Record<string, string | number>[]
    expect(csv).toHaveLength(json.length + 1)
    const figure = csv[0]!
      .split(',')
      .findLast(title => /sales/i.test(title))!
      .replaceAll('"', '')
    const name = Object.keys(json[0]!).at(-1)!
    expect(name).toContain(figure)
    const sum = json.reduce((all, each) => all + Math.round(Number(each[name]) * 100), 0)
    const { columns } = await askCompany(estante, {
      text: `select (100 * sum(round(l.amount * i.rate, 2)))::bigint::text from company.invoice_lines l
        join company.invoices i on i.id = l.invoice_id where l.kind = 'item' and i.invoice_date between '2025-01-01' and '2026-09-30'`,
      values: [],
      columns: [{ path: 'x', type: 'text' }],
    })
    expect(String(sum)).toBe((columns[0] as { values: string[] }).values[0])
  })

  it('as printed holds every text of its rows, and no row of anything else where one block is asked for', async () => {
    const [one, all] = [await written({ format: 'csv', printed: 'grid' }), await written({ format: 'csv', printed: 'layout' })]
    expect(all.length).toBeGreaterThan(one.length)
    for (const line of one.trimEnd().split('\r\n')) expect(all).toContain(line.replace(/,+$/, ''))
    const page = JSON.parse((await estante.runs.files.pages(tester, run, 0, 1))[0]!) as {
      boxes: { block: string; part: string; y: number; height: number }[]
      items: { kind: string; text?: string; y: number }[]
    }
    const rows = page.boxes.filter(box => box.block === 'grid' && box.part !== 'block' && box.part !== 'titles')
    const texts = page.items.filter(item => item.text && rows.some(box => item.y > box.y && item.y <= box.y + box.height))
    expect(texts.length).toBeGreaterThan(30)
    for (const { text } of texts) expect(one).toContain(text!.replaceAll('"', '""'))
  })

  it.each([
    [{ format: 'csv', crosstab: 'gird' }, 'There is no crosstab “gird” on the layout; there is grid.'],
    [{ format: 'csv', printed: 'gird' }, 'There is no block “gird” on the layout; say layout for all of it.'],
    [{ format: 'json', crosstab: 'gird' }, 'There is no crosstab “gird” on the layout; there is grid.'],
  ])('%j is refused with a sentence', async (words, sentence) => {
    await expect(written(words)).rejects.toMatchObject({ sentences: [sentence] })
  })

  it('more than one thing in a file is refused', () => {
    expect(() => readOutput({ format: 'csv', level: 'line', crosstab: 'grid' })).toThrow('say which')
    expect(() => readOutput({ format: 'json', level: 'line', crosstab: 'grid' })).toThrow('say one of them')
  })
})
