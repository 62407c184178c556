/** Is a text, without spaces, an IBAN? Its remainder by 97 is 1 (ISO 13616-1, section 6, and ISO 7064 MOD 97-10). */
export function isIban(text: string): boolean {
  if (!/^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$/.test(text)) return false
  let rest = 0
  for (const sign of text.slice(4) + text.slice(0, 4)) {
    const value = parseInt(sign, 36)
    rest = (rest * (value > 9 ? 100 : 10) + value) % 97
  }
  return rest === 1
}
