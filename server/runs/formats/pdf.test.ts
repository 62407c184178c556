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
  const writer = new PdfWriter(out, 'Minus', { moment: new Date(0) })
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

it('has all its characters as text, whatever was written in the documents before it', async () => {
  const folder = temporaryFolder()
  const written = async (name: string, text: string) => {
    const file = join(folder, `${name}.pdf`)
    const out = createWriteStream(file)
    const writer = new PdfWriter(out, name, { moment: new Date(0) })
    const look = { kind: 'text' as const, text, size: 12, colour: '#000000' }
    const items = fontNames.map((font, index) => ({ ...look, x: 20, y: 30 + index * 20, font }))
    writer.add({ width: 600, height: 400, items, boxes: [] } as unknown as Page)
    writer.end()
    await finished(out)
    return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' })
      .split('\n')
      .map(line => line.trim())
      .filter(Boolean)
  }
  // signs that are made of parts, and then the parts
  const texts = ['a:b;c', 'éãçïÅñ÷…', '1,534.27', '“quoted” i j', 'Ødegård, Ærø', 'aeiou ACNO ´ ¨ ~', '0.5 ± 1/2', '1,534.27']
  for (const [at, text] of texts.entries()) {
    const lines = await written(String(at), text)
    expect(
      lines.length === fontNames.length && lines.every(line => line.normalize('NFC') === text.normalize('NFC')),
      `${text}: ${lines.join(' | ')}`,
    ).toBe(true)
  }
})
