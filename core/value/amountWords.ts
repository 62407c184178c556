import { toCardinal as english } from 'n2words/en-GB'
import { toCardinal as norwegian } from 'n2words/nb-NO'
import { toCardinal as portuguese } from 'n2words/pt-PT'
import { absolute, type Decimal, decimalText, round } from './decimal'

/** One and many of a currency and of its hundredth part (ISO 4217 codes). */
type Names = [one: string, many: string, oneHundredth: string, hundredths: string]
const languages: Record<string, { cardinal: (value: bigint) => string; and: string; minus: string; currencies: Record<string, Names> }> = {
  en: {
    cardinal: english,
    and: 'and',
    minus: 'minus',
    currencies: {
      EUR: ['euro', 'euros', 'cent', 'cents'],
      GBP: ['pound', 'pounds', 'penny', 'pence'],
      NOK: ['krone', 'kroner', 'øre', 'øre'],
    },
  },
  pt: {
    cardinal: portuguese,
    and: 'e',
    minus: 'menos',
    currencies: {
      EUR: ['euro', 'euros', 'cêntimo', 'cêntimos'],
      GBP: ['libra', 'libras', 'péni', 'pence'],
      NOK: ['coroa', 'coroas', 'øre', 'øre'],
    },
  },
  nb: {
    cardinal: norwegian,
    and: 'og',
    minus: 'minus',
    currencies: { EUR: ['euro', 'euro', 'cent', 'cent'], GBP: ['pund', 'pund', 'penny', 'pence'], NOK: ['krone', 'kroner', 'øre', 'øre'] },
  },
}

/**
 * An amount in words, as cheques and receipts want it: "one hundred and two euros and five cents". It is rounded to two digits after
 * the mark.
 * A currency that is not known stands with its code, its hundredths as a fraction; a language that is not known is English.
 */
export function amountWords(amount: Decimal, currency: string, language: string): string {
  const { cardinal, and, minus, currencies } = languages[language.split('-')[0]!] ?? languages.en!
  const text = decimalText(absolute(round(amount, 2)))
  const whole = BigInt(text.split('.')[0]!)
  const cents = BigInt((text.split('.')[1] ?? '').padEnd(2, '0'))
  const names = currencies[currency.toUpperCase()]
  const sign = amount.units < 0 && (whole || cents) ? `${minus} ` : ''
  if (!names) return `${sign}${cardinal(whole)}${cents ? ` ${and} ${cents}/100` : ''}${currency ? ` ${currency}` : ''}`
  const main = `${cardinal(whole)} ${whole === 1n ? names[0] : names[1]}`
  return sign + (cents ? `${main} ${and} ${cardinal(cents)} ${cents === 1n ? names[2] : names[3]}` : main)
}
