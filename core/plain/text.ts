import { Document, parseDocument, visit } from 'yaml'
import { quickValue } from './quickYaml'

/** A definition's text that cannot be read: one sentence, with the line. */
export class TextError extends Error {}

/** A file of a folder of definitions: its path from the folder, with /, and its bytes. */
export type TextFiles = Map<string, Uint8Array>

/** Names that come first in whatever has them, in this order; all others follow by the alphabet. */
const first = [
  'format',
  'kind',
  'is',
  'id',
  'name',
  'label',
  'caption',
  'title',
  'shelf',
  'language',
  'source',
  'table',
  'level',
  'on',
  'text',
]
const rank = new Map(first.map((name, at) => [name, at]))

/** The same value with its names in one order, whatever order they came in; lists stay as they are. */
export function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, each]) => each !== undefined)
      .sort(
        ([one], [other]) => (rank.get(one) ?? first.length) - (rank.get(other) ?? first.length) || (one < other ? -1 : one > other ? 1 : 0),
      )
      .map(([name, each]) => [name, ordered(each)]),
  )
}

const encoder = new TextEncoder()
const decoder = new TextDecoder('utf-8', { fatal: true })

/**
 * A value as text for people and for comparing line by line (YAML 1.2): one thing a line, texts of several lines as blocks, names in one
 * order. Reading it again gives the same value.
 */
export function textOf(value: unknown): Uint8Array {
  const document = new Document(ordered(value), { version: '1.2', aliasDuplicateObjects: false })
  if (hasOdd(value))
    visit(document, {
      Scalar: (_, node) => {
        if (typeof node.value === 'string' && odd.test(node.value)) node.type = 'QUOTE_DOUBLE'
      },
    })
  return encoder.encode(document.toString({ lineWidth: 0, blockQuote: 'literal' }))
}
/** Has a text within a value, or a name in it, such a character? */
function hasOdd(value: unknown): boolean {
  if (typeof value === 'string') return odd.test(value)
  if (typeof value !== 'object' || value === null) return false
  return Array.isArray(value) ? value.some(hasOdd) : Object.entries(value).some(each => each.some(hasOdd))
}
/** Characters that a plain text or a block would lose, or that nobody would see. */
// eslint-disable-next-line no-control-regex -- it is these that are looked for
const odd = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u2028\u2029\ufeff]/

/** Reads a text of textOf, or one that somebody has written. @throws TextError */
export function valueOf(bytes: Uint8Array, path: string): unknown {
  let text: string
  try {
    text = decoder.decode(bytes)
  } catch {
    throw new TextError(`${path} is no text in UTF-8; save it as such.`)
  }
  const quick = quickValue(text)
  if (quick) return quick.value
  const document = parseDocument(text, { version: '1.2', uniqueKeys: true, merge: false, prettyErrors: true })
  const [fault] = document.errors
  if (fault) {
    const { line } = fault.linePos?.[0] ?? {}
    throw new TextError(
      `${path}${line === undefined ? '' : `, line ${line}`}: ${fault.message.split('\n')[0]!.replace(/ at line.*$/, '')}.`,
    )
  }
  try {
    return document.toJS({ maxAliasCount: 0 }) as unknown
  } catch {
    throw new TextError(`${path} repeats parts by reference, which definitions do not; write them out.`)
  }
}
