/** Order of text: the Unicode root collation, then code points (rule 17 of the semantics). */
const collator = new Intl.Collator('en-u-co-standard')

/**
 * Places of the ASCII characters in that order, taken from the collation itself: of a letter without its case, and with it. Control
 * characters, which the collation passes over, have none.
 */
const places = (() => {
  const plain = new Intl.Collator('en-u-co-standard', { sensitivity: 'base' })
  const chars = Array.from({ length: 95 }, (_, index) => String.fromCharCode(32 + index)).sort(collator.compare)
  // one for each code unit, so that anything else is simply not there
  const [letters, cases] = [new Uint8Array(65_536), new Uint8Array(128)]
  let place = 0
  chars.forEach((char, at) => {
    if (!at || plain.compare(char, chars[at - 1]!)) place++
    letters[char.charCodeAt(0)] = place
    cases[char.charCodeAt(0)] = at
  })
  return { letters, cases }
})()

/** Two texts that are plain ASCII as far as they are looked at; nothing where one of them is not, and the collation itself has to say. */
function comparePlain(a: string, b: string): number | undefined {
  const { letters, cases } = places
  const plain = (text: string, at: number) => at >= text.length || letters[text.charCodeAt(at)]! > 0
  let second = 0
  for (let at = 0; at < a.length || at < b.length; at++) {
    if (!plain(a, at) || !plain(b, at)) return undefined
    if (at >= a.length || at >= b.length) return a.length - b.length
    const [x, y] = [a.charCodeAt(at), b.charCodeAt(at)]
    if (x === y) continue
    // the first letters that differ decide, unless they belong together with what follows
    if (letters[x] !== letters[y]) return plain(a, at + 1) && plain(b, at + 1) ? letters[x]! - letters[y]! : undefined
    // of texts that differ in case only, the first such letter does
    if (!second) second = cases[x]! - cases[y]!
  }
  return second
}

/** Texts in the order of the Unicode root collation. */
export function compareText(a: string, b: string): number {
  if (a === b) return 0
  return comparePlain(a, b) ?? (collator.compare(a, b) || compareCodePoints(a, b))
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
