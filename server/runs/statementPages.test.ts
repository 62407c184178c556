import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { TiesBlock } from '../../core/definition/blocks/ties'
import type { Block } from '../../core/definition/blocks/block'
import type { ReportDefinition } from '../../core/definition/report'
import { statement } from '../../demo/reports/statements'
import { demoData, temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'

let estante: Estante
let folder: string
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
  folder = temporaryFolder()
})
afterAll(() => estante.close())
let files = 0
/** The words of a PDF as another program reads them. */
async function pdfText(definition: ReportDefinition, answers: Record<string, string> = {}): Promise<string> {
  const file = join(folder, `${++files}.pdf`)
  await estante.pool.run(tester, await estante.input(tester, 'Statement', definition, answers), { format: 'pdf', file })
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' })
}
const ties: TiesBlock = { kind: 'ties', id: 'ties', left: 0, width: 0, failedOnly: false, after: 0 }
const withBlocks = (definition: ReportDefinition, ...blocks: Block[]): ReportDefinition => ({
  ...definition,
  layouts: [{ ...definition.layouts[0]!, blocks: [...definition.layouts[0]!.blocks, ...blocks] }],
})

it('a chart stands in the PDF with the names of its lines, its columns and the figures that the statement prints', async () => {
  const text = await pdfText(statement('branches'), { period: '2026-P06' })
  const [above, below] = text.split('What each branch earns')
  expect(below).toMatch(/Income\s+Gross profit\s+Result/)
  expect(below).toMatch(/North Quay\s+Boatyard Road\s+Island Depot/)
  const figures = /^\s*Income\s+([\d,]+)\s+([\d,]+)\s+([\d,]+)/m.exec(above!)!.slice(1)
  for (const figure of figures) expect(below).toContain(figure)
})
it(
  'tie-outs stand in the PDF with both figures, in the words of the report’s language; only those that fail where that is ' + 'wanted',
  async () => {
    const definition = statement('balance')
    const failing = {
      ...definition,
      tieOuts: [
        ...definition.tieOuts!,
        {
          id: 'off',
          name: 'Assets are a million',
          left: { is: 'trial' as const, statement: 'statement', column: 'now', types: ['asset' as const] },
          right: { is: 'formula' as const, dataSet: 'main', formula: '1000000' },
          tolerance: '0',
        },
      ],
    }
    const text = await pdfText(withBlocks(failing, ties))
    const total = /Total assets\s+([\d,.]+)/.exec(text)![1]!
    expect(text).toMatch(new RegExp(`The balance sheet balances\\s+${total}\\s+${total}\\s+–\\s+agrees`))
    expect(text).toMatch(new RegExp(`Assets are a million\\s+${total}\\s+1,000,000.00\\s+[\\d,.]+\\s+does not agree`))
    const only = await pdfText(withBlocks(failing, { ...ties, failedOnly: true }))
    expect(only).not.toContain('The balance sheet balances')
    expect(only).toContain('Assets are a million')
    expect(await pdfText(withBlocks({ ...definition, language: 'pt' }, ties))).toMatch(/Verificação[\s\S]*confere/)
    // where nothing fails there is nothing to print
    expect(await pdfText(withBlocks(definition, { ...ties, failedOnly: true }))).not.toContain('Checked')
  },
)
it('footnotes of a run are printed in place of the report’s, and a name that is none is refused', async () => {
  const noted = statement('income', block => ({
    ...block,
    footnotes: [{ id: 'a', text: 'As in the report.' }],
    lines: block.lines.map(line => (line.id === 'sales' ? { ...line, footnote: 'a' } : line)),
  }))
  expect(await pdfText(noted)).toMatch(/Sales ¹[\s\S]*¹ As in the report\./)
  const text = await pdfText(noted, { 'footnote.statement.a': 'Up to {{ periodEnd(param.period) | d MMMM y }}.' })
  expect(text).toContain('¹ Up to 31 October 2026.')
  expect(text).not.toContain('As in the report.')
  await expect(pdfText(noted, { 'footnote.statement.z': 'x' })).rejects.toMatchObject({
    sentences: ['There is no footnote “statement.z” in the report any more; take it out of the answers.'],
  })
})
it('figures are printed as the language writes them, and negatives as the statement says', async () => {
  const text = await pdfText({ ...statement('income', block => ({ ...block, negatives: 'parentheses' })), language: 'pt' })
  expect(text).toMatch(/213\.888,11/)
  expect(text).toMatch(/\([\d.]+,\d\d\)/)
  expect(text).not.toMatch(/−\d/)
})
