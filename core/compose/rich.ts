import LineBreaker from 'linebreak'
import type { Standing } from '../formula/standing'
import { type FontName, textWidth } from './fonts'
import type { ResolvedStyle } from './style'
import type { CheckedPart, CheckedText, PrintText } from './text'

/** What marks in a text say of a stretch of it; only the author's own words carry marks, values never do. */
export interface Marks {
  bold?: boolean
  italic?: boolean
  size?: number
  colour?: string
  link?: string
}
export interface MarkedPart {
  part: CheckedPart
  marks: Marks
}
/** A stretch of one look on a line. */
export interface Run {
  text: string
  marks: Marks
}

/** Addresses that a link may lead to. */
export const safeLink = /^(https?:\/\/|mailto:)[^\s"<>]+$/i

/**
 * Reads the marks of a text: `**bold**`, `*italic*`, `[words](https://…)` as in CommonMark, and `[words]{size=12 colour=#a13c31}`.
 * A mark that is not closed is a character like any other; a backslash takes the meaning from the character after it.
 */
export function markedLines(checked: CheckedText): MarkedPart[][] {
  return checked.lines.map(line => {
    const out: MarkedPart[] = []
    const opened: number[] = []
    let [bold, italic] = [false, false]
    const put = (part: CheckedPart) => {
      const last = out.at(-1)
      const marks: Marks = { ...(bold ? { bold } : {}), ...(italic ? { italic } : {}) }
      if (
        'literal' in part &&
        last &&
        'literal' in last.part &&
        last.marks.bold === marks.bold &&
        last.marks.italic === marks.italic &&
        !opened.includes(out.length)
      )
        last.part = { literal: last.part.literal + part.literal }
      else out.push({ part, marks })
    }
    const rest = line.map(part => ('literal' in part ? part.literal : '\u0000')).join('')
    let at = 0
    for (const part of line) {
      if (!('literal' in part)) {
        put(part)
        at++
        continue
      }
      const end = at + part.literal.length
      while (at < end) {
        const ahead = rest.slice(at)
        if (ahead[0] === '\\' && /^\\[*[\]\\]/.test(ahead)) {
          put({ literal: ahead[1]! })
          at += 2
        } else if (ahead.startsWith('**') && (bold || ahead.indexOf('**', 2) > 2)) {
          bold = !bold
          at += 2
        } else if (ahead[0] === '*' && ahead[1] !== '*' && (italic || (/^\*[^\s*]/.test(ahead) && ahead.indexOf('*', 1) > 1))) {
          italic = !italic
          at++
        } else if (ahead[0] === '[' && /\](\(|\{)/.test(ahead)) {
          opened.push(out.length)
          out.push({ part: { literal: '' }, marks: { ...(bold ? { bold } : {}), ...(italic ? { italic } : {}) } })
          at++
        } else {
          const close = opened.length ? /^\](?:\(([^)\s]+)\)|\{([^}]*)\})/.exec(ahead) : null
          if (close) {
            const marks = close[1] ? (safeLink.test(close[1]) ? { link: close[1], colour: '#0f4c5c' } : {}) : spanMarks(close[2]!)
            for (const inner of out.slice(opened.pop())) inner.marks = { ...inner.marks, ...marks }
            out.push({ part: { literal: '' }, marks: { ...(bold ? { bold } : {}), ...(italic ? { italic } : {}) } })
            at += close[0].length
          } else {
            put({ literal: ahead[0]! })
            at++
          }
        }
      }
    }
    return out.filter(each => !('literal' in each.part) || each.part.literal)
  })
}

function spanMarks(text: string): Marks {
  const size = Number(/size=(\d+(?:\.\d+)?)/.exec(text)?.[1])
  const colour = /colou?r=(#[0-9a-f]{6})\b/i.exec(text)?.[1]
  return { ...(size >= 3 && size <= 200 ? { size } : {}), ...(colour ? { colour } : {}) }
}

/** The runs of each line at a row; a line whose values are all empty is left out, as in plain texts. */
export function printRuns(lines: readonly (readonly MarkedPart[])[], print: (part: CheckedPart) => PrintText, at: Standing): Run[][] {
  return lines.flatMap(line => {
    const runs = line.map(({ part, marks }): Run & { value: boolean } => ({ text: print(part)(at), marks, value: !('literal' in part) }))
    const values = runs.filter(run => run.value)
    if (values.length && values.every(run => run.text === '')) return []
    return [runs.map(({ text, marks }) => ({ text, marks }))]
  })
}

/** The font of a run in a style. */
export function runStyle(style: ResolvedStyle, marks: Marks): ResolvedStyle {
  const serif = style.font.startsWith('serif')
  const bold = marks.bold || /Bold/.test(style.font)
  const italic = marks.italic || /Italic/.test(style.font)
  const font: FontName = serif
    ? bold
      ? 'serifBold'
      : 'serif'
    : bold && italic
      ? 'sansBoldItalic'
      : bold
        ? 'sansBold'
        : italic
          ? 'sansItalic'
          : 'sans'
  return { ...style, font, size: marks.size ?? style.size, colour: marks.colour ?? style.colour }
}

/** A line of runs within a width, with the place of each run from the line's start; lines break where Unicode UAX 14 allows. */
export function wrapRuns(
  runs: readonly Run[],
  style: ResolvedStyle,
  width: number,
): { run: Run; style: ResolvedStyle; x: number; width: number }[][] {
  const text = runs.map(run => run.text).join('')
  const owner = runs.flatMap((run, index) => new Array<number>(run.text.length).fill(index))
  const styles = runs.map(run => runStyle(style, run.marks))
  const measure = (from: number, to: number): number => {
    let sum = 0
    for (let at = from; at < to;) {
      let end = at
      while (end < to && owner[end] === owner[at]) end++
      const own = styles[owner[at]!]!
      sum += textWidth(text.slice(at, end), own.font, own.size)
      at = end
    }
    return sum
  }
  const cuts: [number, number][] = []
  let start = 0
  let last = 0
  const breaker = new LineBreaker(text)
  for (let next = breaker.nextBreak(); next; next = breaker.nextBreak()) {
    const bare = last + text.slice(last, next.position).trimEnd().length
    if (last > start && measure(start, bare) > width) {
      cuts.push([start, last])
      start = last
    }
    // a word that is longer than the line is broken inside
    while (measure(start, bare) > width) {
      let end = start + 1
      while (end < bare && measure(start, end + 1) <= width) end++
      cuts.push([start, end])
      start = end
    }
    last = next.position
    if (next.required && next.position < text.length) {
      cuts.push([start, last])
      start = last
    }
  }
  cuts.push([start, text.length])
  return cuts.map(([from, to]) => {
    const end = from + text.slice(from, to).trimEnd().length
    const line: { run: Run; style: ResolvedStyle; x: number; width: number }[] = []
    let x = 0
    for (let at = from; at < end;) {
      let stop = at
      while (stop < end && owner[stop] === owner[at]) stop++
      const own = owner[at]!
      const piece = text.slice(at, stop)
      const wide = textWidth(piece, styles[own]!.font, styles[own]!.size)
      line.push({ run: { text: piece, marks: runs[own]!.marks }, style: styles[own]!, x, width: wide })
      x += wide
      at = stop
    }
    return line
  })
}
