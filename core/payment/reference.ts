/** Letters and digits as the numbers that check digits are worked out of (ISO 7064): digits as they are, A as 10 and so on. */
const numbersOf = (text: string): string => [...text].map(sign => String(Number.parseInt(sign, 36))).join('')

/** The rest of a long number by 97. */
function restOf(digits: string): number {
  let rest = 0
  for (const digit of digits) rest = (rest * 10 + Number(digit)) % 97
  return rest
}

/** Is it a creditor reference of ISO 11649: RF, two check digits (ISO 7064, MOD 97-10), and 1 to 21 letters or digits? */
export function isCreditorReference(text: string): boolean {
  return /^RF\d\d[0-9A-Z]{1,21}$/.test(text) && restOf(numbersOf(text.slice(4) + text.slice(0, 4))) === 1
}

/**
 * The creditor reference (ISO 11649) of a number: its letters and digits, in capitals, with their check digits; other signs are left out.
 * Nothing where no letter or digit is there, or more than 21 are.
 */
export function creditorReference(number: string): string | undefined {
  const own = number.toUpperCase().replace(/[^0-9A-Z]/g, '')
  if (own === '' || own.length > 21) return undefined
  const check = 98 - restOf(numbersOf(`${own}RF00`))
  return `RF${String(check).padStart(2, '0')}${own}`
}
