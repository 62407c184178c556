import { dictionary } from '@zxcvbn-ts/language-common'

let known: ReadonlySet<string> | undefined

/** Is it one of the passwords that are tried first, also with digits and signs around it, or said several times? In small letters. */
export function isCommonPassword(password: string): boolean {
  known ??= new Set(dictionary['passwords-common'])
  const bare = password.replace(/^[^\p{L}]+/u, '').replace(/[^\p{L}]+$/u, '')
  const repeated = shortestPart(password)
  return [password, bare, repeated].some(each => each.length > 3 && known!.has(each))
}

/** The part that a text says again and again; the text itself where it says none. */
function shortestPart(text: string): string {
  for (let length = 1; length <= text.length / 2; length++)
    if (text.length % length === 0 && text === text.slice(0, length).repeat(text.length / length)) return text.slice(0, length)
  return text
}
