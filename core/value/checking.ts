import { lazy, mixed, object, type Schema, type ValidationError } from 'yup'

/** Names that an object of a request or a definition may have. */
const mostNames = 5000

/** The names of an object; none of anything else, however long it is. */
export const namesOf = (value: unknown): string[] =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.keys(value) : []

/** An object with any names, each with a value of one shape. */
export function recordOf(inner: Schema, required = false): Schema {
  return lazy((value: unknown) => {
    const names = namesOf(value)
    if (names.length > mostNames)
      return mixed().test(
        'many',
        ({ path }) => `${path} has more than ${mostNames} parts`,
        () => false,
      )
    const shape = object(Object.fromEntries(names.map(name => [name, inner])))
    return required ? shape.required() : shape
  }) as never
}

/** What a check found first: where, and what is wanted, without what was sent. */
export function faultOf(error: ValidationError): string {
  const [message = ''] = error.errors
  return message
    .split(/, but the final value was| The validated value was/)[0]!
    .replace(/[.\s]+$/, '')
    .slice(0, 400)
}

/** What no field of ours can hold; its message goes on after “The request …”. */
export class SentError extends Error {}

/** How deep what is sent may lie in itself, and how many values it may have. */
const [deepest, most] = [60, 400_000]

/**
 * Refuses what no field of ours can hold, before anything looks into it: NUL and halves of characters, which no store keeps, and what lies
 * too deep or is too much. It is gone through without recursion. @throws SentError
 */
export function checkSent(value: unknown): void {
  const waiting: { value: unknown; depth: number }[] = [{ value, depth: 0 }]
  for (let count = 0; waiting.length; count++) {
    const { value: own, depth } = waiting.pop()!
    if (count > most) throw new SentError(`holds more than ${most.toLocaleString('en')} values; send less at a time.`)
    if (typeof own === 'string') checkText(own)
    if (typeof own !== 'object' || own === null) continue
    if (depth > deepest) throw new SentError(`lies more than ${deepest} deep in itself; make it flatter.`)
    if (Array.isArray(own)) for (const each of own) waiting.push({ value: each, depth: depth + 1 })
    else
      for (const [name, each] of Object.entries(own)) {
        checkText(name)
        if (name === '__proto__') throw new SentError('has a part called “__proto__”, which nothing of ours is.')
        waiting.push({ value: each, depth: depth + 1 })
      }
  }
}

/** @throws SentError where a text holds what no store keeps */
export function checkText(text: string): void {
  if (text.includes('\u0000') || !isWellFormed(text))
    throw new SentError(`holds the text “${printable(text)}”, with a character that cannot be kept; write it anew.`)
}

function isWellFormed(text: string): boolean {
  for (let at = 0; at < text.length; at++) {
    const unit = text.charCodeAt(at)
    if (unit < 0xd800 || unit > 0xdfff) continue
    if (unit > 0xdbff) return false
    const next = text.charCodeAt(++at)
    if (!(next >= 0xdc00 && next <= 0xdfff)) return false
  }
  return true
}

const printable = (text: string) => Array.from(text.slice(0, 60), char => (/[\p{C}\p{Cs}]/u.test(char) ? '·' : char)).join('')
