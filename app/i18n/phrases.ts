/** A sentence with holes: `There is no level “{0}”; there are {1}.` */
interface Phrase {
  /** what stands before, between and after its holes */
  own: string[]
  /** the same of the other language, with the numbers of the holes that stand between */
  other: { texts: string[]; holes: number[] }
  /** letters of its own: of two phrases that fit, the one with more says it better */
  weight: number
}

/** Pieces of a text around its holes, and the numbers of these. */
function pieces(text: string): { texts: string[]; holes: number[] } {
  const parts = text.split(/\{(\d+)\}/)
  return { texts: parts.filter((_, at) => at % 2 === 0), holes: parts.filter((_, at) => at % 2 === 1).map(Number) }
}

/** How deep sentences lie in the holes of others. */
const deepest = 4

/**
 * Says in another language what core and server have put together in English: by whole phrases with holes, and phrases in those.
 * What is between “ and ” are names of somebody's and stays as it is, as does all that no phrase fits.
 */
export class Phrases {
  private readonly whole = new Map<string, string>()
  private readonly holed: Phrase[] = []
  private readonly known = new Map<string, string>()

  /**
   * @param phrases by what they are in English
   * @param words that are phrases by themselves only, where nothing stands around them
   * @param grouped a count as the other language writes it, thousands apart
   */
  constructor(
    phrases: Record<string, string>,
    private readonly words: Record<string, string>,
    private readonly grouped: (count: number) => string = String,
  ) {
    for (const [english, text] of Object.entries(phrases)) {
      const { texts: own } = pieces(english)
      if (own.length === 1) this.whole.set(english, text)
      else this.holed.push({ own, other: pieces(text), weight: own.join('').length })
    }
    this.holed.sort((a, b) => b.weight - a.weight)
  }

  /** What a text says in the other language; itself where nothing is known. */
  say(text: string): string {
    const known = this.known.get(text)
    if (known !== undefined) return known
    const found = this.words[text] ?? this.whole.get(text) ?? this.several(text) ?? this.phrase(text, 0) ?? text
    // texts with figures in them are ever new ones
    if (this.known.size > 2000) this.known.clear()
    this.known.set(text, found)
    return found
  }

  private phrase(text: string, depth: number): string | undefined {
    const whole = this.whole.get(text)
    if (whole !== undefined || depth > deepest) return whole
    for (const { own, other } of this.holed) {
      const values = valuesOf(text, own)
      if (values)
        return other.texts.reduce((sum, piece, at) => {
          const hole = other.holes[at - 1]!
          return sum + (own[hole]!.endsWith('“') ? values[hole]! : this.inner(values[hole]!, depth + 1)) + piece
        })
    }
    return undefined
  }

  /** What stands in a hole: a phrase, several with a colon or a space around them, or a value of somebody's. */
  private inner(text: string, depth: number): string {
    if (/^\d{1,3}(?:,\d{3})+$/.test(text)) return this.grouped(Number(text.replaceAll(',', '')))
    const own = text.trim()
    const at = own ? text.indexOf(own) : 0
    const [before, after] = [text.slice(0, at), text.slice(at + own.length)]
    return before + (this.phrase(text, depth) ?? this.phrase(own, depth) ?? own) + after
  }

  /** Sentences that stand one after the other, where at least the first is known: a hole may hold several, too. */
  private several(text: string): string | undefined {
    const each = text.split(/(?<=[.!?]) (?=[\p{Lu}“])/u)
    const first = each.length > 1 ? this.phrase(each[0]!, 0) : undefined
    return first && [first, ...each.slice(1).map(own => this.phrase(own, 0) ?? own)].join(' ')
  }
}

/** What stands in the holes of a phrase, where a text is one; a hole ends where what follows it begins first. */
function valuesOf(text: string, own: readonly string[]): string[] | undefined {
  if (!text.startsWith(own[0]!)) return undefined
  const last = own.at(-1)!
  const end = text.length - last.length
  if (!text.endsWith(last) || end < own[0]!.length) return undefined
  const values: string[] = []
  let from = own[0]!.length
  for (const piece of own.slice(1, -1)) {
    const at = text.indexOf(piece, from)
    if (at < 0 || at + piece.length > end) return undefined
    values.push(text.slice(from, at))
    from = at + piece.length
  }
  values.push(text.slice(from, end))
  return values
}
