/** The few words that the program itself prints, by language; the first part of a tag decides, English where it is not known. */
const words = {
  en: { continued: '(continued)', none: '(none)', upTo: 'up to', over: 'over', to: 'to', week: 'Week of', quarter: 'Q' },
  pt: { continued: '(continuação)', none: '(sem valor)', upTo: 'até', over: 'mais de', to: 'a', week: 'Semana de', quarter: 'T' },
  nb: { continued: '(forts.)', none: '(ingen)', upTo: 'til og med', over: 'over', to: 'til', week: 'Uken fra', quarter: 'K' },
} as const

export function pageWordsOf(language: string): typeof words[keyof typeof words] {
  return words[language.split('-')[0] as keyof typeof words] ?? words.en
}
