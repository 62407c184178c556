import { format } from 'date-fns'
import { enGB } from 'date-fns/locale/en-GB'
import { nb } from 'date-fns/locale/nb'
import { pt } from 'date-fns/locale/pt'
import { dateParts, type Day } from './date'
import { PatternError } from './numberFormat'

const languages: Record<string, typeof enGB> = { en: enGB, pt, nb }

/**
 * Compiles a date pattern of Unicode TR 35 ("d MMM y") for a language; an unknown language prints in English.
 * @throws PatternError
 */
export function dateFormat(pattern: string, language: string): (date: Day) => string {
  const locale = languages[language.split('-')[0]!] ?? enGB
  const print = (date: Day) => {
    const { year, month, day } = dateParts(date)
    return format(new Date(year, month - 1, day), pattern, { locale })
  }
  try {
    print(0)
  } catch {
    throw new PatternError(`“${pattern}” is not a date pattern; write it like d MMM y or yyyy-MM-dd.`)
  }
  const printed = new Map<Day, string>()
  return date => {
    let text = printed.get(date)
    if (text === undefined) printed.set(date, (text = print(date)))
    return text
  }
}
