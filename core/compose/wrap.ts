import LineBreaker from 'linebreak'
import { type FontName, textWidth } from './fonts'

/** Lines of a text within a width in points, broken where Unicode UAX 14 allows, inside a word only where it is longer than a line. */
export function wrapText(text: string, font: FontName, size: number, width: number): string[] {
  if (text === '') return ['']
  if (!text.includes('\n') && textWidth(text, font, size) <= width) return [text]
  return text.split('\n').flatMap(paragraph => wrapParagraph(paragraph.replace(/\r/g, ''), font, size, width))
}

function wrapParagraph(text: string, font: FontName, size: number, width: number): string[] {
  if (textWidth(text, font, size) <= width) return [text]
  const lines: string[] = []
  let line = ''
  let lineWidth = 0
  const breaker = new LineBreaker(text)
  let last = 0
  for (let next = breaker.nextBreak(); next; next = breaker.nextBreak()) {
    const word = text.slice(last, next.position)
    last = next.position
    const bare = textWidth(word.trimEnd(), font, size)
    if (line && lineWidth + bare > width) {
      lines.push(line.trimEnd())
      line = ''
      lineWidth = 0
    }
    if (bare > width) {
      const pieces = cutWord(word, font, size, width)
      lines.push(...pieces.slice(0, -1))
      line = pieces.at(-1)!
    } else line += word
    lineWidth = textWidth(line, font, size)
  }
  lines.push(line.trimEnd())
  return lines
}

function cutWord(word: string, font: FontName, size: number, width: number): string[] {
  const pieces: string[] = []
  let piece = ''
  let pieceWidth = 0
  for (const char of word) {
    const each = textWidth(char, font, size)
    if (piece && pieceWidth + each > width) {
      pieces.push(piece)
      piece = ''
      pieceWidth = 0
    }
    piece += char
    pieceWidth += each
  }
  return [...pieces, piece]
}

/** A text cut with an ellipsis so that it is no wider than `width` points. */
export function cutText(text: string, font: FontName, size: number, width: number): string {
  if (textWidth(text, font, size) <= width) return text
  let kept = ''
  for (const char of text) {
    if (textWidth(`${kept}${char}…`, font, size) > width) break
    kept += char
  }
  return `${kept.trimEnd()}…`
}

/** The size at which each line of a text fits into a width; not below four points, and never larger than it was. */
export function shrunkSize(text: string, font: FontName, size: number, width: number): number {
  const widest = Math.max(...text.split('\n').map(line => textWidth(line, font, size)))
  return widest <= width ? size : Math.max(4, Math.floor(((size * width) / widest) * 100) / 100)
}
