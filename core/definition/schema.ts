import { blockSchema } from './blocks/registry'
import { array, boolean, mixed, number, object, ValidationError } from 'yup'
import { checkSent, faultOf, recordOf, SentError } from '../value/checking'
import { blockIds, levelNames } from './walk'
import { formatVersion, type ReportDefinition } from './report'
import { type PanelBlock, panelSchema } from './blocks/panel'
import { pageSizes } from './page'
import { parameterKinds } from './parameters'
import { levelSchema } from './levels'
import { upgraded } from './upgrade'
import { identifier, name, plain, points, record } from './checks'
import { tableSchema } from './tables'
import { themeSchema } from './style'
import { handsOutSchema } from './handsOut'
import { figureSchema } from './tieOuts'

/** A definition that cannot be taken in: one sentence. */
export class DefinitionError extends Error {}
/** The shape of a definition: see readDefinition. */
export const reportShape = object({
  format: number()
    .strict()
    .required()
    .oneOf([formatVersion], ({ value }: { value: unknown }) => `it has format ${String(value).slice(0, 20)}, which there is not`),
  language: name.matches(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/, 'language must be a tag like en-GB'),
  parameters: array(
    object({
      name: identifier,
      label: name,
      kind: mixed()
        .oneOf([...parameterKinds])
        .required(),
      required: boolean().strict().required(),
      default: plain,
      defaultTo: plain,
      help: plain,
      hidden: boolean().strict(),
      choices: object({
        table: plain.defined(),
        value: plain.defined(),
        label: plain.defined(),
        type: mixed().oneOf(['number', 'text', 'date', 'moment', 'boolean']),
        list: array(object({ value: name, label: plain.defined() }).noUnknown()),
        narrowedBy: array(object({ parameter: name, column: name }).noUnknown()),
      })
        .noUnknown()
        .default(undefined),
    }).noUnknown(),
  ).required(),
  tieOuts: array(
    object({
      id: name,
      name: plain.defined(),
      left: figureSchema,
      right: figureSchema,
      tolerance: name.matches(/^\d+(\.\d+)?$/, ({ path }: { path: string }) => `${path} must be a number such as 0 or 0.05`),
    }).noUnknown(),
  ),
  dataSets: array(
    object({
      name: identifier,
      source: name,
      root: levelSchema.required(),
      fields: recordOf(object({ caption: plain, format: plain, currency: plain }).noUnknown(), true),
    }).noUnknown(),
  )
    .required()
    .min(1),
  tables: array(tableSchema),
  layouts: array(
    object({
      name,
      page: object({
        size: mixed()
          .oneOf([...pageSizes])
          .required(),
        width: number().strict().min(36).max(5000),
        height: number().strict().min(36).max(5000),
        orientation: mixed().oneOf(['portrait', 'landscape']).required(),
        margins: object({ top: points.min(0), right: points.min(0), bottom: points.min(0), left: points.min(0) }).noUnknown(),
        columns: object({ count: number().strict().integer().min(1).max(12).required(), gap: points.min(0) })
          .noUnknown()
          .default(undefined),
      }).noUnknown(),
      theme: plain,
      letterhead: boolean().strict(),
      top: panelSchema.default(undefined),
      foot: panelSchema.default(undefined),
      firstTop: panelSchema.default(undefined),
      firstFoot: panelSchema.default(undefined),
      blocks: array(blockSchema).required(),
      documentName: plain,
      archive: boolean().strict(),
    }).noUnknown(),
  )
    .required()
    .min(1),
  layout: plain,
  fileName: plain,
  formats: array(name).max(50),
  themes: array(themeSchema),
  handsOut: handsOutSchema,
  translations: record(record(plain.defined())),
}).noUnknown()

/** Letters that a definition may have, with all that stands in it. */
const mostLetters = 8_000_000

/** About how long a value is as text; counting ends beyond `most`. */
export function sizeOf(value: unknown, most = mostLetters): number {
  let length = 0
  const waiting = [value]
  while (waiting.length) {
    const each = waiting.pop()
    if (typeof each === 'string') length += each.length
    else if (typeof each === 'object' && each !== null)
      for (const [name, inner] of Object.entries(each)) {
        length += name.length + 4
        waiting.push(inner)
      }
    else length += 8
    if (length > most) break
  }
  return length
}

/**
 * Checks a definition that comes from a file, a request or the store.
 * @throws DefinitionError with the first fault and its place
 */
export function readDefinition(value: unknown): ReportDefinition {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new DefinitionError('This is not a report definition; it must be a JSON object with a format.')
  const { format } = value as { format?: unknown }
  if (typeof format === 'number' && format > formatVersion)
    throw new DefinitionError(
      `This definition has format ${format}, which is newer than this program reads (${formatVersion}); bring Estante up to date to ` +
        `open it.`,
    )
  try {
    checkSent(value)
  } catch (error) {
    if (error instanceof SentError) throw new DefinitionError(`The definition ${error.message}`)
    throw error
  }
  const length = sizeOf(value)
  if (length > mostLetters)
    throw new DefinitionError(
      `The definition is ${Math.round(length / 1_000_000)} million letters long; a report has at most ${mostLetters / 1_000_000} million.`,
    )
  try {
    const checked = reportShape.validateSync(upgraded(value), { strict: true, abortEarly: true }) as unknown as ReportDefinition
    const ids = blockIds(checked)
    const twice = ids.find((id, index) => ids.indexOf(id) !== index)
    const own = [...checked.dataSets, ...(checked.tables ?? [])].map(each => each.name)
    const same = own.find((each, index) => own.indexOf(each) !== index)
    if (same) throw new DefinitionError(`Two data sets or tables of the definition are called “${same}”; each needs a name of its own.`)
    const levels = levelNames(checked)
    const again = levels.find((each, index) => levels.indexOf(each) !== index)
    if (again) throw new DefinitionError(`Two levels of the definition are called “${again}”; each needs a name of its own.`)
    const layoutNames = checked.layouts.map(layout => layout.name)
    const sameLayout = layoutNames.find((each, index) => layoutNames.indexOf(each) !== index)
    if (sameLayout) throw new DefinitionError(`Two layouts of the definition are called “${sameLayout}”; each needs a name of its own.`)
    if (twice) throw new DefinitionError(`Two blocks of the definition have the id “${twice}”; each needs its own.`)
    return checked
  } catch (error) {
    if (error instanceof ValidationError) throw new DefinitionError(`The definition has a fault: ${faultOf(error)}.`)
    throw error
  }
}

/** Checks a panel that comes by itself. @throws DefinitionError with the first fault */
export function readPanel(value: unknown): PanelBlock {
  try {
    return panelSchema.validateSync(value, { strict: true }) as unknown as PanelBlock
  } catch (error) {
    if (error instanceof ValidationError) throw new DefinitionError(`The panel has a fault: ${faultOf(error)}.`)
    throw error
  }
}

/** @throws DefinitionError where the text is no JSON or no definition */
export function parseDefinition(source: string): ReportDefinition {
  let value: unknown
  try {
    value = JSON.parse(source)
  } catch (error) {
    const at = /position (\d+)/.exec((error as Error).message)?.[1]
    throw new DefinitionError(`The file is not readable JSON${at ? ` (from character ${Number(at) + 1} on)` : ''}; nothing was imported.`)
  }
  return readDefinition(value)
}
