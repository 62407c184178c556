/** The remainder by 97 of a number that is written with letters too, each as its place in the alphabet from 10 (ISO 7064, MOD 97-10). */
function remainder(text: string): number {
  let rest = 0
  for (const sign of text) {
    const value = parseInt(sign, 36)
    rest = (rest * (value > 9 ? 100 : 10) + value) % 97
  }
  return rest
}
const two = (value: number) => String(value).padStart(2, '0')

/** The check digit of a Norwegian account (MOD 11); none where that would be ten. */
function eleventh(ten: string): string | undefined {
  const sum = [5, 4, 3, 2, 7, 6, 5, 4, 3, 2].reduce((all, weight, at) => all + weight * Number(ten[at]), 0)
  const digit = (11 - (sum % 11)) % 11
  return digit === 10 ? undefined : String(digit)
}

/**
 * An invented account of twelve digits in a country, as its banks would write it, with check digits that are right (ISO 13616-1). The banks
 * of its numbers do not exist.
 */
export function ibanOf(country: string, digits: string): string {
  let own: string
  if (country === 'GB') own = `HRBR00${digits.slice(0, 4)}${digits.slice(4)}`
  else if (country === 'NO') {
    let ten = Number(digits.slice(0, 10))
    while (!eleventh(String(ten))) ten++
    own = `${ten}${eleventh(String(ten))}`
  } else {
    const account = `0000${digits.slice(0, 4)}000${digits.slice(4)}`
    own = account + two(98 - remainder(`${account}00`))
  }
  const land = ['GB', 'NO'].includes(country) ? country : 'PT'
  return `${land}${two(98 - remainder(`${own}${land}00`))}${own}`
}
