/** A stretch of a text with values in it. */
export type TextPart = { literal: string } | { formula: string; pattern?: string; from: number; formulaFrom: number; to: number }

/** Where a stretch in quotes ends that begins at a place: behind its last quote; −1 where it does not end. */
function quotedEnd(text: string, from: number): number {
  const quote = text[from]
  for (let at = from + 1; at < text.length; at++) {
    if (text[at] === quote) return at + 1
    if (quote === '"' && text[at] === '\\') at++
  }
  return -1
}

/** The first place outside of quotes at which a word stands; a quote without an end is a character like any other. */
function outsideQuotes(text: string, from: number, word: string): number {
  let open = false
  for (let at = from; at < text.length; at++) {
    if (text.startsWith(word, at)) return at
    if (open || (text[at] !== '"' && text[at] !== '`')) continue
    const end = quotedEnd(text, at)
    if (end < 0) open = true
    else at = end - 1
  }
  return -1
}

/**
 * Cuts “Aged as of {{ param.asOf | d MMMM y }}” into its parts; `from` and `to` are offsets in the text. What stands in quotes ends no
 * value and begins no pattern. The text is gone through once, however it is made.
 */
export function textParts(text: string): TextPart[] {
  const parts: TextPart[] = []
  let at = 0
  let plain = false
  for (;;) {
    const from = text.indexOf('{{', at)
    if (from < 0) break
    let end = plain ? -1 : outsideQuotes(text, from + 2, '}}')
    if (end < 0) {
      // a quote that runs to the end of the text ends nothing
      plain = true
      end = text.indexOf('}}', from + 2)
      if (end < 0) break
    }
    if (from > at) parts.push({ literal: text.slice(at, from) })
    const inner = text.slice(from + 2, end)
    const bar = outsideQuotes(inner, 0, '|')
    const formula = bar < 0 ? inner : inner.slice(0, bar)
    parts.push({
      formula: formula.trim(),
      ...(bar < 0 ? {} : { pattern: inner.slice(bar + 1).trim() }),
      from,
      formulaFrom: from + 2 + formula.length - formula.trimStart().length,
      to: end + 2,
    })
    at = end + 2
  }
  if (at < text.length) parts.push({ literal: text.slice(at) })
  return parts
}

/** A text that is one value and nothing else, as most cells are: its formula and pattern. */
export function singleValue(text: string): { formula: string; pattern?: string } | undefined {
  const parts = textParts(text.trim())
  const part = parts[0]
  return parts.length === 1 && part && 'formula' in part ? part : undefined
}
