import { describe, expect, it } from 'vitest'
import { parseDecimal } from './decimal'
import { amountWords } from './amountWords'

describe('amounts in words', () => {
  it.each([
    ['102.05', 'EUR', 'en', 'one hundred and two euros and five cents'],
    ['1', 'GBP', 'en-GB', 'one pound'],
    ['0.01', 'GBP', 'en', 'zero pounds and one penny'],
    ['-3.5', 'EUR', 'en', 'minus three euros and fifty cents'],
    ['21.10', 'EUR', 'pt', 'vinte e um euros e dez cêntimos'],
    ['1', 'NOK', 'nb', 'en krone'],
    ['12.30', 'JPY', 'en', 'twelve and 30/100 JPY'],
    ['0.004', 'EUR', 'en', 'zero euros'],
    ['7', '', 'en', 'seven'],
  ])('%s %s in %s', (amount, currency, language, words) => {
    expect(amountWords(parseDecimal(amount)!, currency, language)).toBe(words)
  })
})
