/** As RFC 5321 has it, without the rarities that no mail program takes. */
const address = /^[^\s@<>",;:()[\]\\]{1,64}@[^\s@<>",;:()[\]\\]{1,255}$/
export const isMailAddress = (text: string): boolean => address.test(text)

/** The addresses of a field, which may hold several; `wrong` is what is none. */
export function mailAddresses(text: string): { to: string[]; wrong: string[] } {
  const all = [...new Set(text.split(/[;,\s]+/).filter(Boolean))]
  return { to: all.filter(isMailAddress), wrong: all.filter(each => !isMailAddress(each)) }
}
