import type { Typed } from '../formula/typed'
import type { Standing } from '../formula/standing'
import type { PreparedBlock, PreparedLetter } from './prepared'
import type { PrepareScope } from './prepareScope'
import type { Values } from './values'

/** Texts of a letter, with values in them; they stand on the record that the letter is to. */
export interface LetterTexts {
  subject: string
  body: string
  /** what its file is called, without ending */
  name: string
}

/** A letter to each root record of a report: the formula of its address, and its texts, by languages too. */
export interface LetterWanted {
  address: string
  texts: LetterTexts
  inLanguages: ({ language: string } & LetterTexts)[]
  /** its pages stand in the letter itself, too */
  pages?: boolean
}

/** A letter as it goes to a record. */
export interface LetterTo extends LetterTexts {
  address: string
  language: string
}

/** Checks a letter on the layout whose pages it brings; what is wrong is noted in the scope. */
export function prepareLetter(wanted: LetterWanted, scope: PrepareScope, blocks: readonly PreparedBlock[]): PreparedLetter | undefined {
  const at = { block: blocks[0]?.block.id ?? '', place: 'outline' as const }
  if (blocks.length !== 1 || !blocks[0]!.restarts || blocks[0]!.level !== 0) {
    const sentence = 'A letter to each record needs a layout that begins each of them on pages of its own; choose another layout.'
    scope.problem({ ...at, sentence, from: 0, to: 0 })
    return undefined
  }
  const on = { ...scope.at(0), page: false }
  const address = scope.formula(wanted.address, on, at, false)
  if (!address) return undefined
  if (address.type !== 'text') {
    scope.problem({ ...at, sentence: `The address ${wanted.address} is no text; choose a field that holds one.`, from: 0, to: 0 })
    return undefined
  }
  const texts = ({ subject, body, name }: LetterTexts): PreparedLetter['texts'] => ({
    subject: scope.text(subject, on, at),
    body: scope.text(body, on, at),
    name: scope.text(name, on, at),
  })
  const { language } = blocks[0] as { language?: Typed }
  return {
    address,
    ...(language ? { language } : {}),
    pages: wanted.pages ?? false,
    texts: texts(wanted.texts),
    inLanguages: new Map(wanted.inLanguages.map(each => [each.language.toLowerCase(), texts(each)])),
  }
}

/** The letter to the record at which a formula stands, over the records that `values` speaks of now. */
export function letterAt({ address, language, texts, inLanguages }: PreparedLetter, values: Values, own: string, at: Standing): LetterTo {
  values.speak(language ? String(values.evaluate(language)(at) ?? own) : own)
  const tag = values.language.toLowerCase()
  // a letter in Portuguese of Brazil is better than one in English
  const spoken = inLanguages.get(tag) ?? inLanguages.get(tag.split('-')[0]!) ?? texts
  return {
    address: String(values.evaluate(address)(at) ?? '').trim(),
    language: values.language,
    subject: values.print(spoken.subject)(at),
    body: values.print(spoken.body)(at),
    name: values.print(spoken.name)(at),
  }
}
