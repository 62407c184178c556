/** The few words that the program itself prints, by language; the first part of a tag decides, English where it is not known. */
const words = {
  en: {
    continued: '(continued)',
    none: '(none)',
    upTo: 'up to',
    over: 'over',
    to: 'to',
    week: 'Week of',
    quarter: 'Q',
    checked: 'Checked',
    difference: 'Difference',
    agrees: 'agrees',
    differs: 'does not agree',
    unchecked: 'when run',
  },
  pt: {
    continued: '(continuação)',
    none: '(sem valor)',
    upTo: 'até',
    over: 'mais de',
    to: 'a',
    week: 'Semana de',
    quarter: 'T',
    checked: 'Verificação',
    difference: 'Diferença',
    agrees: 'confere',
    differs: 'não confere',
    unchecked: 'ao executar',
  },
  nb: {
    continued: '(forts.)',
    none: '(ingen)',
    upTo: 'til og med',
    over: 'over',
    to: 'til',
    week: 'Uken fra',
    quarter: 'K',
    checked: 'Kontroll',
    difference: 'Avvik',
    agrees: 'stemmer',
    differs: 'stemmer ikke',
    unchecked: 'ved kjøring',
  },
} as const

export function pageWordsOf(language: string): (typeof words)[keyof typeof words] {
  return words[language.split('-')[0] as keyof typeof words] ?? words.en
}
