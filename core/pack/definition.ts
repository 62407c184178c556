import { array, boolean, lazy, mixed, object, string, ValidationError } from 'yup'
import { identifier, name, plain, record, words } from '../definition/checks'
import type { ParameterDefinition } from '../definition/parameters'
import { figureSchema, type TieFigure } from '../definition/tieOuts'
import { checkSent, faultOf, SentError } from '../value/checking'
import { type Recipient, recipientShape } from './recipients'
import { type When, whenShape } from './when'

/** A pack that cannot be taken in: one sentence. */
export class PackError extends Error {}

/** What a report of a pack is answered with: an answer of the pack's, a formula over these, or a text as answers are written. */
export type PackAnswer = { is: 'parameter'; name: string } | { is: 'formula'; formula: string } | { is: 'text'; text: string }

/** A report of a pack; what is not answered takes the report's own default. */
export interface PackReport {
  /** names it within the pack */
  id: string
  /** id of the report, and what it was called when it was put in */
  report: string
  name: string
  /** name of the layout; the default one where none is said */
  layout?: string
  answers: Record<string, PackAnswer>
  /** once for each choice of one of its parameters: all of them, or some */
  each?: { parameter: string; values?: string[] }
}

/** An equality across reports of a pack: each side is a figure of one of them, added up where it is repeated. */
export interface PackTie {
  id: string
  name: string
  left: { report: string; figure: TieFigure }
  right: { report: string; figure: TieFigure }
  /** by how much they may differ: a number as text, "0" for not at all */
  tolerance: string
}

/** What is made of all reports together. */
export interface PackOut {
  /** pattern of the files' names: a text with the pack's answers in it, such as `Month end {{ param.period.label }}` */
  name: string
  /** one PDF, with a cover and contents, and with pages numbered over all of it */
  pdf: boolean
  cover: boolean
  numbered: boolean
  /** a ZIP of each report's PDF */
  zip: boolean
  /** a workbook with a sheet for each */
  xlsx?: boolean
}

export interface PackDefinition {
  format: 1
  parameters: ParameterDefinition[]
  reports: PackReport[]
  ties: PackTie[]
  /** what keeps it from being sent until somebody has looked at it: a tie-out that fails, or always */
  hold: 'failed' | 'always' | 'never'
  out: PackOut
  to: Recipient[]
  when?: When
  /** a time that was missed while the program was off is made up once, or left out */
  missed: 'once' | 'leave'
}

export const newPack = (): PackDefinition => ({
  format: 1,
  parameters: [],
  reports: [],
  ties: [],
  hold: 'failed',
  out: { name: '', pdf: true, cover: true, numbered: true, zip: false },
  to: [],
  missed: 'once',
})

const flag = () => boolean().strict().required()
const answer = lazy((value: unknown) => {
  const is = (value as Partial<PackAnswer> | null)?.is
  if (is === 'parameter') return object({ is: name, name: identifier }).noUnknown()
  if (is === 'formula') return object({ is: name, formula: plain.required().max(4000) }).noUnknown()
  return object({ is: mixed().oneOf(['text']).required(), text: plain.defined() }).noUnknown()
})
const side = object({ report: name, figure: figureSchema }).noUnknown()
const shape = object({
  format: mixed().oneOf([1]).required(),
  parameters: array(
    object({
      name: identifier,
      label: name,
      kind: mixed().oneOf(['text', 'whole', 'decimal', 'date', 'dates', 'month', 'period', 'boolean']).required(),
      required: flag(),
      default: plain,
      defaultTo: plain,
      help: plain,
    }).noUnknown(),
  ).required(),
  reports: array(
    object({
      id: identifier,
      report: name,
      name,
      layout: plain,
      answers: record(answer as never),
      each: object({ parameter: name, values: array(plain.defined()) })
        .noUnknown()
        .default(undefined),
    }).noUnknown(),
  )
    .required()
    .max(200),
  ties: array(
    object({
      id: name,
      name: plain.defined(),
      left: side,
      right: side,
      tolerance: name.matches(/^\d+(\.\d+)?$/, ({ path }: { path: string }) => `${path} must be a number such as 0 or 0.05`),
    }).noUnknown(),
  ).required(),
  hold: mixed().oneOf(['failed', 'always', 'never']).required(),
  out: object({ name: words, pdf: flag(), cover: flag(), numbered: flag(), zip: flag(), xlsx: boolean().strict() }).noUnknown().required(),
  to: array(recipientShape).required().max(100),
  when: whenShape,
  missed: string().oneOf(['once', 'leave']).required(),
}).noUnknown()

/** A pack from outside, checked. @throws PackError with one sentence */
export function readPack(value: unknown): PackDefinition {
  try {
    checkSent(value)
    const pack = shape.validateSync(value, { strict: true }) as unknown as PackDefinition
    const ids = pack.reports.map(each => each.id)
    const twice = ids.find((id, at) => ids.indexOf(id) !== at)
    if (twice) throw new PackError(`Two reports of the pack are called “${twice}”; give one another name.`)
    for (const tie of pack.ties)
      for (const { report } of [tie.left, tie.right])
        if (!ids.includes(report)) throw new PackError(`The tie-out “${tie.name}” holds a report “${report}”, which is not in the pack.`)
    const split = new Set<string>()
    for (const each of pack.to) {
      if (each.is !== 'records') continue
      if (!ids.includes(each.report)) throw new PackError(`Letters go to the records of “${each.report}”, which is not in the pack.`)
      if (split.has(each.report)) throw new PackError(`Letters go to the records of “${each.report}” twice; take one of them out.`)
      split.add(each.report)
    }
    return pack
  } catch (error) {
    if (error instanceof SentError) throw new PackError(`The pack ${error.message}`)
    if (error instanceof ValidationError) throw new PackError(`The pack cannot be taken: ${faultOf(error)}.`)
    throw error
  }
}
