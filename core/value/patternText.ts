/** A character of a pattern: quoted ones stand for themselves. */
interface PatternChar {
  char: string
  quoted: boolean
}

/** A pattern without its quotes ('' is one); undefined where a quote does not end. */
function charsOf(pattern: string): PatternChar[] | undefined {
  const chars: PatternChar[] = []
  let inside = false
  for (let at = 0; at < pattern.length; at++) {
    const char = pattern[at]!
    if (char !== "'") chars.push({ char, quoted: inside })
    else if (pattern[at + 1] === "'") {
      chars.push({ char, quoted: true })
      at++
    } else inside = !inside
  }
  return inside ? undefined : chars
}

/** One part of a number pattern: text, digits, text. `marks` are those of its texts that are not quoted. */
export interface NumberPart {
  prefix: string
  /** `#`, `0` and `,` before the mark; `0` and `#` after it */
  whole: string
  fraction: string
  suffix: string
  percent: boolean
  /** per cent signs that are not quoted, by their place in prefix and suffix */
  signs: { prefix: number[]; suffix: number[] }
}

/**
 * The parts of a number pattern between its semicolons; undefined in the place of one that is no pattern, and for all where a quote is
 * open.
 */
export function numberParts(pattern: string): { part: NumberPart | undefined; text: string }[] | undefined {
  const chars = charsOf(pattern)
  if (!chars) return undefined
  const halves: PatternChar[][] = [[]]
  for (const each of chars) {
    if (each.char === ';' && !each.quoted) halves.push([])
    else halves.at(-1)!.push(each)
  }
  return halves.map(half => ({ part: numberPart(half), text: half.map(each => each.char).join('') }))
}

function numberPart(chars: readonly PatternChar[]): NumberPart | undefined {
  const isDigit = ({ char, quoted }: PatternChar) => !quoted && '#0,.'.includes(char)
  const from = chars.findIndex(isDigit)
  if (from < 0) return undefined
  const to = chars.findLastIndex(isDigit) + 1
  const digits = chars.slice(from, to)
  if (!digits.every(isDigit)) return undefined
  const [whole, fraction, ...more] = digits
    .map(each => each.char)
    .join('')
    .split('.')
  if (more.length || /0[0,]*#/.test(whole!) || !/^0*#*$/.test(fraction ?? '') || !/[#0]/.test(whole! + (fraction ?? ''))) return undefined
  const text = (some: readonly PatternChar[]) => some.map(each => each.char).join('')
  const signs = (some: readonly PatternChar[]) => some.flatMap((each, at) => (each.char === '%' && !each.quoted ? [at] : []))
  const [before, after] = [chars.slice(0, from), chars.slice(to)]
  const found = { prefix: signs(before), suffix: signs(after) }
  return {
    prefix: text(before),
    whole: whole!,
    fraction: fraction ?? '',
    suffix: text(after),
    percent: found.prefix.length + found.suffix.length > 0,
    signs: found,
  }
}
