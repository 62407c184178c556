/** Order of text: the Unicode root collation, then code points (rule 17 of the semantics). */
const collator = new Intl.Collator('en-u-co-standard')

export function compareText(a: string, b: string): number {
  if (a === b) return 0
  return collator.compare(a, b) || compareCodePoints(a, b)
}

function compareCodePoints(a: string, b: string): number {
  const [x, y] = [Array.from(a), Array.from(b)]
  for (let i = 0; i < x.length && i < y.length; i++) {
    const difference = x[i]!.codePointAt(0)! - y[i]!.codePointAt(0)!
    if (difference) return difference
  }
  return x.length - y.length
}

/** Text without case and accents, for "contains" and "starts with". */
export function folded(text: string): string {
  return text
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
}

/** A text as a regular expression finds it, sign by sign. */
export const literalPattern = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

/** Does a text speak of something by its name, as a word of its own and in whatever letters? */
export const speaksOf = (text: string, name: string) =>
  new RegExp(`(?<![\\p{L}\\p{N}_])${literalPattern(name)}(?![\\p{L}\\p{N}_])`, 'iu').test(text)
