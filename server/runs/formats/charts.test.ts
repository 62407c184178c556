import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { inflateSync } from 'node:zlib'
import { XMLParser } from 'fast-xml-parser'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Page } from '../../../core/compose/page'
import { changeChart } from '../../../core/definition/edits/chart'
import type { ReportDefinition } from '../../../core/definition/report'
import { pageSvg } from '../../../core/draw/svg'
import { salesCharts, yearSteps } from '../../../demo/reports/grids'
import { askCompany, demoData, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import type { RunRecord } from '../runRecord'

let estante: Estante
const folder = mkdtempSync(join(tmpdir(), 'charts-'))
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(async () => {
  await estante.close()
  rmSync(folder, { recursive: true })
})
async function run(definition: ReportDefinition): Promise<{ run: RunRecord; pages: Page[]; told: string[] }> {
  const answers = { dates: '2025-01-01..2026-09-30' }
  const found = estante.runs.start(tester, await estante.input(tester, 'Report', definition, answers), 'report')
  await found.over
  expect(found.sentences).toBeUndefined()
  const pages = (await estante.runs.files.pages(tester, found, 0, 100)).map(text => JSON.parse(text) as Page)
  const told = pages.flatMap(page => page.boxes.flatMap(box => (box.part === 'block' && box.label ? [box.label] : [])))
  return { run: found, pages, told }
}
async function file(of: RunRecord, output: Parameters<Estante['runs']['files']['written']>[2]): Promise<Buffer> {
  const opened = await estante.runs.files.written(tester, of, output)
  const bytes = await opened.readFile()
  await opened.close()
  return bytes
}
const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', preserveOrder: true, htmlEntities: true })
interface Node {
  ':@'?: Record<string, string>
  [name: string]: unknown
}
/** What is said of pictures in XML, in order. */
function saidIn(nodes: Node[]): string[] {
  return nodes.flatMap(node => [
    ...(node[':@']?.role === 'img' ? [node[':@']['aria-label']!] : []),
    ...Object.entries(node).flatMap(([, inner]) => (Array.isArray(inner) ? saidIn(inner as Node[]) : [])),
  ])
}

describe('charts in files', () => {
  it('say what they show in SVG, HTML and PDF alike', async () => {
    const { run: of, pages, told } = await run(salesCharts(yearSteps))
    expect(told).toHaveLength(4)
    expect(pages.flatMap(page => saidIn(parser.parse(pageSvg(page)) as Node[]))).toEqual(told)
    const html = (await file(of, { format: 'html' })).toString()
    const pictures = html.match(/<svg.*?<\/svg>/gs)!
    expect(pictures.flatMap(picture => saidIn(parser.parse(picture) as Node[]))).toEqual(told)
    // what is drawn there is what is drawn on the page
    const count = (text: string) => text.match(/<(text|rect|path)/g)!.length
    expect(pictures.reduce((sum, picture) => sum + count(picture), 0)).toBeLessThan(
      pages.reduce((sum, page) => sum + count(pageSvg(page)), 0),
    )
    const pdf = await file(of, { format: 'pdf' })
    const streams = pdf.toString('latin1').split('stream\n').slice(1)
    const contents = streams.flatMap(stream => {
      try {
        return inflateSync(Buffer.from(stream.slice(0, stream.indexOf('\nendstream')), 'latin1')).toString('latin1')
      } catch {
        return []
      }
    })
    const marked = contents.flatMap(text =>
      [...text.matchAll(/\/Span << \/Alt <([0-9a-f]+)> >> BDC/g)].map(([, hex]) =>
        Buffer.from(hex!, 'hex').subarray(2).swap16().toString('utf16le'),
      ),
    )
    expect(marked).toEqual(told)
    expect(contents.join('').match(/\bBDC\b/g)!.length).toBe(contents.join('').match(/\bEMC\b/g)!.length)
    const path = join(folder, 'charts.pdf')
    writeFileSync(path, pdf)
    expect(execFileSync('pdftotext', ['-layout', path, '-'], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })).toContain(
      'Where it was sold, with the running share',
    )
  })

  it('have their figures as rows in a workbook, which LibreOffice reads as numbers', async () => {
    const { run: of } = await run(salesCharts(yearSteps))
    const path = join(folder, 'charts.xlsx')
    writeFileSync(path, await file(of, { format: 'xlsx' } as never))
    execFileSync('soffice', [
      '--headless',
      `-env:UserInstallation=file://${folder}/office`,
      '--convert-to',
      'csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,false,false',
      '--outdir',
      folder,
      path,
    ])
    const lines = readFileSync(join(folder, 'charts.csv'), 'utf8').split('\n')
    const { columns } = await askCompany(estante, {
      text: `select coalesce(r.name, 'Elsewhere') || ',' || sum(round(l.amount * i.rate, 2))::text
        from company.invoice_lines l join company.invoices i on i.id = l.invoice_id
        left join company.customers c on c.id = i.customer_id left join company.towns t on t.id = c.town_id
        left join company.regions r on r.id = t.region_id
        where l.kind = 'item' and i.invoice_date between '2026-01-01' and '2026-09-30' group by r.name`,
      values: [],
      columns: [{ path: 'x', type: 'text' }],
    })
    const regions = (columns[0] as { values: string[] }).values
    expect(regions.length).toBeGreaterThan(3)
    for (const region of regions)
      expect(lines.map(line => line.replaceAll('"', '').replace(/,+$/, ''))).toContain(region.replace(/\.?0+$/, ''))
  })

  it('lines of a chart by days stand at their days, however many lie between', async () => {
    const definition = changeChart(salesCharts(yearSteps), 'months', ({ by: _, ...own }) => ({
      ...own,
      form: 'lines',
      by: { id: 'day', by: 'invoice.invoice_date', step: 'day', order: { by: 'value', descending: false }, total: 'none' },
      measures: [{ id: 'sales', formula: 'sum(base)' }],
    }))
    definition.dataSets[0]!.root.filters = [...definition.dataSets[0]!.root.filters, 'amount > 6000']
    const { pages } = await run(definition)
    const marks = pages[0]!.boxes.filter(box => box.block === 'months' && box.cell)
    const places = marks.map(box => ({ day: Date.parse(`${box.label!.split(' · ')[0]!} UTC`) / 86_400_000, x: box.x + box.width / 2 }))
    expect(places.length).toBeGreaterThan(10)
    const [first, last] = [places[0]!, places.at(-1)!]
    const gaps = new Set(places.slice(1).map((place, at) => place.day - places[at]!.day))
    expect(gaps.size, 'days are missing between').toBeGreaterThan(3)
    for (const { day, x } of places) expect(x).toBeCloseTo(first.x + ((day - first.day) / (last.day - first.day)) * (last.x - first.x), 3)
  })
})
