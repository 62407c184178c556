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
