import { UTCDate } from '@date-fns/utc'
import { format } from 'date-fns'
import { enGB } from 'date-fns/locale/en-GB'
import { nb } from 'date-fns/locale/nb'
import { pt } from 'date-fns/locale/pt'
import type { Day } from './date'
import { milliseconds, type Moment } from './moment'
import { PatternError } from './numberFormat'

const languages: Record<string, typeof enGB> = { en: enGB, pt, nb }

/** Prints what lies so many milliseconds after 1970, whatever the zone of the machine is. @throws PatternError */
function printing(pattern: string, language: string): (at: number) => string {
  const locale = languages[language.split('-')[0]!] ?? enGB
  const print = (at: number) => format(new UTCDate(at), pattern, { locale })
  try {
    print(0)
  } catch {
    throw new PatternError(`“${pattern}” is not a date pattern; write it like d MMM y or yyyy-MM-dd.`)
  }
  return print
}

/**
 * Compiles a date pattern of Unicode TR 35 ("d MMM y") for a language; an unknown language prints in English.
 * @throws PatternError
 */
export function dateFormat(pattern: string, language: string): (date: Day) => string {
  const print = printing(pattern, language)
  const printed = new Map<Day, string>()
  return date => {
    let text = printed.get(date)
    if (text === undefined) printed.set(date, (text = print(date * 86_400_000)))
    return text
  }
}

/** The same for dates with a time ("d MMM y HH:mm"). @throws PatternError */
export function momentFormat(pattern: string, language: string): (moment: Moment) => string {
  const print = printing(pattern, language)
  return moment => print(milliseconds(moment))
}
