import { execFileSync } from 'node:child_process'
import { createWriteStream } from 'node:fs'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { expect, it } from 'vitest'
import { type FontName, fontNames, textWidth } from '../../../core/compose/fonts'
import type { Page } from '../../../core/compose/page'
import { temporaryFolder } from '../../../tests/support'
import { PdfWriter } from './pdf'

it('writes one minus sign in every face, as wide as it was measured', async () => {
  const file = join(temporaryFolder(), 'minus.pdf')
  const out = createWriteStream(file)
  const writer = new PdfWriter(out, 'Minus', new Date(0))
  const text = '−1−23−'
  const look = { kind: 'text' as const, text, size: 20, colour: '#000000' }
  const items = fontNames.map((font, index) => ({ ...look, x: 50, y: 50 + index * 40, font }))
  writer.add({ width: 400, height: 400, items, boxes: [] } as unknown as Page)
  writer.end()
  await finished(out)
  const boxes = execFileSync('pdftotext', ['-bbox', file, '-'], { encoding: 'utf8' })
  const words = [...boxes.matchAll(/<word xMin="([\d.]+)" yMin="[\d.]+" xMax="([\d.]+)"[^>]*>([^<]*)</g)]
  expect(words.map(each => each[3])).toEqual(fontNames.map(() => text))
  for (const [index, [, from, to]] of words.entries())
    expect(Math.abs(Number(to) - Number(from) - textWidth(text, fontNames[index]!, 20))).toBeLessThan(0.1)
  // the sign is no hyphen: it is as wide as a figure, nearly
  for (const font of fontNames as FontName[]) expect(textWidth('−', font, 1)).toBeGreaterThan(textWidth('-', font, 1) * 1.4)
})
