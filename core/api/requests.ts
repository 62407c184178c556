import { array, boolean, type InferType, lazy, mixed, number, object, string, ValidationError } from 'yup'

/** A request that is not as it should be: one sentence. */
export class RequestError extends Error {}

const text = () => string().strict().defined().max(4000)
const name = () => string().strict().required().max(200)
/** Answers that a request may bring: reports have far fewer parameters. */
const mostAnswers = 500
const answers = lazy((value: object | undefined) => {
  const names = Object.keys(value ?? {})
  return object(Object.fromEntries(names.slice(0, mostAnswers).map(key => [key, string().strict().defined().max(100_000)])))
    .strict()
    .required()
    .test('many', `answers are at most ${mostAnswers}`, () => names.length <= mostAnswers)
})
const definition = mixed<object>((value): value is object => typeof value === 'object' && value !== null && !Array.isArray(value))
const whole = () => number().strict().integer().min(0)
const words = mixed<Record<string, unknown>>((value): value is Record<string, unknown> => typeof value === 'object' && value !== null)

/** A report as readers run it, or a definition as it is being edited, with answers. Every request that reads rows is one of these. */
const askedFields = { report: string().strict().max(200), definition, answers, dataSet: whole().max(1000) }
export interface Asked {
  report?: string | undefined
  definition?: object | undefined
  answers: Record<string, string>
  dataSet?: number | undefined
}

const pair = object({ from: name(), to: name() }).noUnknown()

/** What the routes take in; each is checked before anything is done. */
export const requests = {
  asked: object(askedFields).noUnknown(),
  rows: object({ ...askedFields, limit: whole().min(1).max(1000).required() }).noUnknown(),
  choices: object({
    ...askedFields,
    parameter: name(),
    search: string().strict().max(1000),
    offset: whole(),
    values: array(string().strict().defined()).max(5000),
    count: boolean().strict(),
  }).noUnknown(),
  match: object({
    ...askedFields,
    from: name(),
    to: name(),
    on: array(pair).required().min(1),
    direction: mixed<'related' | 'detail'>().oneOf(['related', 'detail']).required(),
  }).noUnknown(),
  profile: object({ ...askedFields, level: name(), path: name(), search: string().strict().max(1000) }).noUnknown(),
  split: object({ ...askedFields, table: name(), key: array(name()).required().min(1), columns: array(name()).required() }).noUnknown(),
  trace: object({
    ...askedFields,
    statement: name(),
    line: name(),
    column: name(),
    account: string().strict().max(200),
    run: string().strict().max(100),
  }).noUnknown(),
  describe: object({ definition: definition.required(), text: string().strict().required().max(100_000) }).noUnknown(),
  search: object({ value: name(), tables: array(name()).required().max(5000) }).noUnknown(),
  run: object({ report: name(), answers, layout: string().strict().max(200) }).noUnknown(),
  order: object({ report: name(), answers, output: words.required(), layout: string().strict().max(200) }).noUnknown(),
  save: object({ basedOn: whole().required(), definition: definition.required() }).noUnknown(),
  create: object({ name: name().trim(), shelf: name().trim(), definition: definition.required() }).noUnknown(),
  import: object({ name: name(), shelf: name(), text: string().strict().required() }).noUnknown(),
  importRows: object({
    definition: definition.required(),
    answers,
    format: mixed<'json' | 'csv'>().oneOf(['json', 'csv']).required(),
    level: string().strict().max(200),
    text: string().strict().defined(),
  }).noUnknown(),
  keepAnswers: object({ name: name().max(100), answers: answers.optional() }).noUnknown(),
  nameVersion: object({ name: text().max(100) }).noUnknown(),
  address: object({ label: text().max(200), answers, output: words.required(), until: name() }).noUnknown(),
  settings: object({ basedOn: whole(), settings: words.required() }).noUnknown(),
  books: object({ ledger: mixed<object>(), fiscalYear: mixed<object>() }).noUnknown(),
  letterhead: object({ basedOn: whole(), panel: words.required() }).noUnknown(),
  /** what a desk takes is checked by the source that has it */
  desk: words.required(),
} as const

type Schemas = typeof requests
export type RequestBody<K extends keyof Schemas> = InferType<Schemas[K]>

/** How deep what is sent may lie in itself, and how many values it may have. */
const [deepest, most] = [60, 400_000]

/**
 * Refuses what no field of ours can hold, before anything looks into it: NUL and halves of characters, which no store keeps, and what lies
 * too deep or is too much. It is gone through without recursion. @throws RequestError with one sentence
 */
export function checkSent(value: unknown): void {
  const waiting: { value: unknown; depth: number }[] = [{ value, depth: 0 }]
  for (let count = 0; waiting.length; count++) {
    const { value: own, depth } = waiting.pop()!
    if (count > most) throw new RequestError(`The request holds more than ${most.toLocaleString('en')} values; send less at a time.`)
    if (typeof own === 'string') checkText(own)
    if (typeof own !== 'object' || own === null) continue
    if (depth > deepest) throw new RequestError(`The request lies more than ${deepest} deep in itself; make it flatter.`)
    if (Array.isArray(own)) for (const each of own) waiting.push({ value: each, depth: depth + 1 })
    else
      for (const [name, each] of Object.entries(own)) {
        checkText(name)
        if (name === '__proto__') throw new RequestError('A part of the request is called “__proto__”, which nothing of ours is.')
        waiting.push({ value: each, depth: depth + 1 })
      }
  }
}

/** @throws RequestError where a text holds what no store keeps */
export function checkText(text: string): void {
  if (text.includes('\u0000') || !isWellFormed(text))
    throw new RequestError(`The text “${printable(text)}” holds a character that cannot be kept; write it anew.`)
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

/** Checks the body of a request. @throws RequestError with one sentence */
export function readRequest<K extends keyof Schemas>(kind: K, body: unknown): RequestBody<K> {
  try {
    checkSent(body)
    return requests[kind].validateSync(body, { strict: true }) as RequestBody<K>
  } catch (error) {
    if (error instanceof ValidationError) throw new RequestError(`The request is not complete: ${error.errors[0]}.`)
    throw error
  }
}
