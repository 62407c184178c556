import { array, boolean, lazy, mixed, number, object, type Schema, string, ValidationError } from 'yup'
import { blockIds, levelNames } from './walk'
import type { Block } from './blocks/block'
import { formatVersion, type ReportDefinition } from './report'
import { dateSteps, rowKinds } from './blocks/table'
import { codeKinds, type PanelBlock } from './blocks/panel'
import { pageSizes } from './page'
import { parameterKinds } from './parameters'
import { calendarEdges, childTotalKinds, type LevelDefinition, type RelatedDefinition } from './levels'
import { chartForms } from './blocks/chart'
import { statementLineKinds, statementMeasures, statementScales, statementUnits } from './blocks/statement'
import { accountNatures } from '../books/ledger'
import { upgraded } from './upgrade'

/** A definition that cannot be taken in: one sentence. */
export class DefinitionError extends Error {}

const name = string().strict().required().max(200)
const plain = string().strict().max(100_000)
const text = plain.defined()
const points = number().strict().required().min(-10_000).max(10_000)
const pairs = array(object({ from: name, to: name }).noUnknown())
  .required()
  .defined()
const identifier = name.matches(/^[\p{L}_][\p{L}\p{N}_]*$/u, ({ path }) => `${path} must be one word of letters, digits and _`)

const formula = text.max(4000)
const formulas = array(formula).required()
const sort = array(object({ field: name, descending: boolean().strict().required() }).noUnknown())
const calculated = array(object({ name: identifier, formula }).noUnknown())
const pick = lazy((value: object | undefined) =>
  value === undefined
    ? mixed().optional()
    : 'latest' in value
      ? object({ latest: name, at: formula }).noUnknown()
      : object({ sort: sort.required() }).noUnknown(),
)
const related: Schema<RelatedDefinition> = object({
  name: identifier,
  table: name,
  on: pairs.min(1),
  fields: array(name).required(),
  related: array(lazy(() => related.required())).required(),
  filters: array(formula),
  pick,
  required: boolean().strict(),
}).noUnknown() as never
const level: Schema<LevelDefinition> = object({
  name: identifier,
  caption: plain,
  table: name,
  on: pairs,
  fields: array(name).required(),
  related: array(related).required(),
  details: array(lazy(() => level.required())).required(),
  filters: formulas,
  sort: sort.required(),
  calculated,
  totals: array(
    object({
      name: identifier,
      table: name,
      on: pairs.min(1),
      total: mixed()
        .oneOf([...childTotalKinds])
        .required(),
      value: plain.max(4000),
      by: plain,
      filters: formulas,
    }).noUnknown(),
  ),
  ageings: array(
    object({
      name: identifier,
      amount: formula,
      asOf: formula,
      dates: formulas.min(1),
      direction: mixed().oneOf(['past', 'ahead']).required(),
      columns: array(
        object({
          label: plain.defined(),
          upTo: lazy(value =>
            typeof value === 'string' ? mixed().oneOf([...calendarEdges]) : number().strict().integer().min(-100_000).max(100_000),
          ),
        }).noUnknown(),
      )
        .required()
        .min(2)
        .max(24),
    }).noUnknown(),
  ),
}).noUnknown() as never
const named = lazy((fields: object) => object(Object.fromEntries(Object.keys(fields ?? {}).map(key => [key, formula]))).required())
const table = lazy((value: { kind?: string }) => {
  switch (value?.kind) {
    case 'sql':
      return object({
        kind: name,
        name: identifier,
        text,
        key: array(name).required(),
        columns: array(
          object({
            name,
            type: mixed().oneOf(['number', 'text', 'date', 'boolean']).required(),
            scale: number().strict().integer().min(0).max(40),
            databaseType: name,
          }).noUnknown(),
        ).required(),
      }).noUnknown()
    case 'summary':
      return object({ kind: name, name: identifier, base: level, by: calculated.required(), measures: calculated.required() }).noUnknown()
    case 'stack':
      return object({
        kind: name,
        name: identifier,
        origin: identifier,
        columns: array(identifier).required(),
        parts: array(object({ dataSet: identifier, label: plain.defined(), fields: named }).noUnknown()).required(),
      }).noUnknown()
    case 'openItems':
      return object({
        kind: name,
        name: identifier,
        asOf: formula,
        columns: array(identifier).required(),
        parts: array(
          object({
            label: plain.defined(),
            table: name,
            related: array(related).required(),
            filters: formulas,
            date: formula,
            amount: formula,
            booked: formula,
            fields: named,
            settled: array(
              object({
                table: name,
                on: pairs.min(1),
                date: formula,
                amount: formula,
                booked: formula,
                adds: boolean().strict().required(),
              }).noUnknown(),
            ).required(),
          }).noUnknown(),
        ).required(),
      }).noUnknown()
    case 'ledger':
      return object({ kind: name, name: identifier, filters: formulas }).noUnknown()
    default:
      return object({ kind: mixed().oneOf(['sql', 'summary', 'stack', 'openItems', 'ledger']).required() })
  }
})

const hex = /^#[0-9a-fA-F]{6}$/
const hexFault = ({ path }: { path: string }) => `${path} must be a colour like #0f4c5c`
const rule = plain.max(4000)
const styleParts = {
  named: plain,
  font: mixed().oneOf(['sans', 'serif']),
  size: number().strict().min(3).max(200),
  bold: boolean().strict(),
  italic: boolean().strict(),
  colour: string().strict().matches(hex, { message: hexFault }),
  align: mixed().oneOf(['left', 'centre', 'right']),
  vertical: mixed().oneOf(['top', 'middle', 'bottom']),
  overflow: mixed().oneOf(['wrap', 'cut', 'shrink']),
  indent: number().strict().min(0).max(400),
  rotated: boolean().strict(),
  marks: boolean().strict(),
  fill: string().strict().matches(hex, { message: hexFault }),
}
const border = mixed().oneOf(['hair', 'thin', 'thick', 'double', 'none'])
const fullStyle = object(styleParts).noUnknown()
const style = fullStyle.default(undefined)
const fullRowStyle = object({ ...styleParts, above: border, below: border }).noUnknown()
const rowStyle = fullRowStyle.default(undefined)
const colour = string().strict().required().matches(hex, hexFault)
const place = { id: name, x: points, y: points, width: points.min(0), showWhen: rule }
const item = lazy((value: { kind?: string }) => {
  switch (value?.kind) {
    case 'text':
      return object({ ...place, kind: name, text, style }).noUnknown()
    case 'image':
      return object({ ...place, kind: name, height: points, svg: string().strict().max(4_000_000).defined(), from: rule }).noUnknown()
    case 'rule':
      return object({ ...place, kind: name, thickness: points, colour, height: number().strict().min(0) }).noUnknown()
    case 'box':
      return object({
        ...place,
        kind: name,
        height: points,
        fill: string().strict().matches(hex, { message: hexFault }),
        border: string().strict().matches(hex, { message: hexFault }),
        thickness: number().strict().min(0).max(40),
      }).noUnknown()
    case 'code':
      return object({
        ...place,
        kind: name,
        code: mixed()
          .oneOf([...codeKinds])
          .required(),
        height: points,
        text,
      }).noUnknown()
    default:
      return object({ kind: mixed().oneOf(['text', 'image', 'rule', 'box', 'code']).required() })
  }
})
const base = { id: name, showWhen: rule, after: points, atBottom: boolean().strict() }
export const panel = object({
  ...base,
  kind: mixed().oneOf(['panel']).required(),
  height: points,
  items: array(item).required(),
}).noUnknown()
const column = object({
  id: name,
  width: points.min(0),
  fit: boolean().strict(),
  hidden: boolean().strict(),
  once: boolean().strict(),
  style,
}).noUnknown()
const record = (inner: Schema): Schema =>
  lazy((value: object | undefined) => object(Object.fromEntries(Object.keys(value ?? {}).map(key => [key, inner])))) as never
const cell = object({
  text,
  span: number().strict().integer().min(1).max(200),
  style,
  when: rule,
  picture: rule,
  pictureHeight: number().strict().min(4).max(400),
}).noUnknown()
const group = object({
  id: identifier,
  by: formula,
  step: mixed().oneOf([...dateSteps]),
  edges: array(number().strict().required()),
  order: object({
    by: mixed().oneOf(['name', 'value', 'total', 'given']).required(),
    total: rule,
    descending: boolean().strict().required(),
    given: array(text),
  })
    .noUnknown()
    .required(),
  top: object({
    count: number().strict().integer().min(1).max(100_000).required(),
    last: boolean().strict(),
    total: formula,
    others: plain,
  })
    .noUnknown()
    .default(undefined),
  none: plain,
  having: rule,
  newPage: boolean().strict(),
  keepTogether: boolean().strict(),
  repeatStart: boolean().strict(),
}).noUnknown()
const look = object({
  id: name,
  when: formula,
  columns: array(name).required(),
  kinds: array(mixed().oneOf([...rowKinds])),
  style: fullStyle.required(),
  mark: plain.max(4),
  meaning: text,
}).noUnknown()
const row: Schema = object({
  id: name,
  kind: mixed()
    .oneOf([...rowKinds])
    .required(),
  group: plain,
  when: rule,
  cells: record(cell),
  style: rowStyle,
  nested: lazy((value: object | undefined) => (value === undefined ? mixed().optional() : (tableBlock as Schema))),
}).noUnknown()
const tableBlock: Schema = object({
  ...base,
  kind: mixed().oneOf(['table']).required(),
  level: name,
  left: points.min(0),
  width: points.min(0),
  columns: array(column).required().min(1),
  groups: array(group).required(),
  sort,
  rows: array(row).required(),
  repeatTitles: boolean().strict().required(),
  looks: array(look),
  legend: boolean().strict(),
}).noUnknown()
const codes = array(name)
const count = (most: number) => number().strict().integer().min(0).max(most)
const statement = object({
  ...base,
  kind: mixed().oneOf(['statement']).required(),
  level: name,
  left: points.min(0),
  width: points.min(0),
  scale: mixed()
    .oneOf([...statementScales])
    .required(),
  decimals: count(6).required(),
  negatives: mixed().oneOf(['minus', 'parentheses']).required(),
  currency: plain,
  currencyAt: mixed().oneOf(['figures', 'sums']),
  codes: boolean().strict().required(),
  zeroAccounts: boolean().strict().required(),
  repeatTitles: boolean().strict().required(),
  titles: rowStyle,
  footnotes: array(object({ id: name, text }).noUnknown()),
  lines: array(
    object({
      id: identifier,
      kind: mixed()
        .oneOf([...statementLineKinds])
        .required(),
      caption: plain,
      indent: count(20),
      style: rowStyle,
      accounts: plain.max(4000),
      sign: mixed().oneOf(['natural', 'debit', 'credit']),
      expand: mixed().oneOf([true, false, 'tree']),
      hideZero: boolean().strict(),
      formula: rule,
      format: plain.max(200),
      from: plain,
      to: plain,
      branches: codes,
      departments: codes,
      footnote: plain,
    }).noUnknown(),
  )
    .required()
    .max(2000),
  columns: array(
    object({
      id: identifier,
      title: plain,
      width: points.min(0),
      hidden: boolean().strict(),
      style,
      kind: mixed()
        .oneOf([...statementMeasures, 'difference', 'percent', 'total', 'average', 'share'])
        .required(),
      span: object({
        unit: mixed()
          .oneOf([...statementUnits])
          .required(),
        anchor: formula,
        to: rule,
        count: count(60),
        back: count(200),
        backBy: mixed().oneOf(['period', 'quarter', 'year']),
      })
        .noUnknown()
        .default(undefined),
      version: plain,
      versionFrom: rule,
      branches: codes,
      departments: codes,
      repeat: object({ over: mixed().oneOf(['period', 'quarter', 'year', 'branch', 'department']).required(), count: count(60) })
        .noUnknown()
        .default(undefined),
      of: array(name),
      line: plain,
      favourable: boolean().strict(),
    }).noUnknown(),
  )
    .required()
    .max(100),
}).noUnknown()
const chart = object({
  ...base,
  kind: mixed().oneOf(['chart']).required(),
  statement: name,
  left: points.min(0),
  width: points.min(0),
  height: points.min(40),
  form: mixed()
    .oneOf([...chartForms])
    .required(),
  columns: array(name),
  title: plain,
  legend: boolean().strict().required(),
  figures: boolean().strict().required(),
  series: array(
    object({
      line: name,
      form: mixed().oneOf(['bars', 'lines', 'areas']),
      colour: string().strict().matches(hex, { message: hexFault }),
    }).noUnknown(),
  )
    .required()
    .max(20),
}).noUnknown()
export const block: Schema<Block> = lazy((value: { kind?: string }) => {
  switch (value?.kind) {
    case 'panel':
      return panel
    case 'break':
      return object({ ...base, kind: name }).noUnknown()
    case 'table':
      return tableBlock
    case 'repeat':
      return object({
        ...base,
        kind: name,
        level: name,
        newPage: boolean().strict().required(),
        restartNumbers: boolean().strict().required(),
        outline: plain,
        language: rule,
        blocks: array(lazy(() => block as Schema)).required(),
      }).noUnknown()
    case 'statement':
      return statement
    case 'chart':
      return chart
    case 'ties':
      return object({
        ...base,
        kind: name,
        left: points.min(0),
        width: points.min(0),
        failedOnly: boolean().strict().required(),
      }).noUnknown()
    default:
      return object({ kind: mixed().oneOf(['repeat', 'panel', 'table', 'statement', 'chart', 'ties', 'break']).required() })
  }
}) as never
const theme = object({
  name,
  body: fullStyle.required(),
  line: colour,
  band: string().strict().matches(hex, { message: hexFault }),
  padding: object({ x: points, y: points }).noUnknown(),
  rows: object(
    Object.fromEntries(
      ['titles', 'groupStart', 'line', 'extra', 'groupEnd', 'end', 'carried'].map(kind => [kind, fullRowStyle.required()]),
    ),
  ).noUnknown(),
  named: record(fullStyle),
}).noUnknown()

const figure = lazy((value: { is?: string }) => {
  switch (value?.is) {
    case 'formula':
      return object({ is: name, dataSet: name, formula }).noUnknown()
    case 'line':
      return object({ is: name, statement: name, line: name, column: name }).noUnknown()
    case 'total':
      return object({ is: name, table: name, column: name }).noUnknown()
    case 'rows':
      return object({ is: name, table: name }).noUnknown()
    case 'trial':
      return object({
        is: name,
        statement: name,
        column: name,
        types: array(mixed().oneOf([...accountNatures]))
          .required()
          .min(1),
      }).noUnknown()
    default:
      return object({ is: mixed().oneOf(['formula', 'line', 'trial', 'rows', 'total']).required() })
  }
})
const definition = object({
  format: number().strict().required(),
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
        type: mixed().oneOf(['number', 'text', 'date', 'boolean']),
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
      left: figure,
      right: figure,
      tolerance: name.matches(/^\d+(\.\d+)?$/, ({ path }: { path: string }) => `${path} must be a number such as 0 or 0.05`),
    }).noUnknown(),
  ),
  dataSets: array(
    object({
      name: identifier,
      source: name,
      root: level,
      fields: lazy((value: object) =>
        object(
          Object.fromEntries(
            Object.keys(value ?? {}).map(key => [key, object({ caption: plain, format: plain, currency: plain }).noUnknown()]),
          ),
        ).required(),
      ),
    }).noUnknown(),
  )
    .required()
    .min(1),
  tables: array(table),
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
      top: panel.default(undefined),
      foot: panel.default(undefined),
      firstTop: panel.default(undefined),
      firstFoot: panel.default(undefined),
      blocks: array(block).required(),
      documentName: plain,
    }).noUnknown(),
  )
    .required()
    .min(1),
  layout: plain,
  themes: array(theme),
  translations: record(record(plain.defined())),
}).noUnknown()

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
    const checked = definition.validateSync(upgraded(value), { strict: true, abortEarly: true }) as unknown as ReportDefinition
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
    if (error instanceof ValidationError) throw new DefinitionError(`The definition has a fault: ${error.errors[0]}.`)
    throw error
  }
}

/** Checks a panel that comes by itself. @throws DefinitionError with the first fault */
export function readPanel(value: unknown): PanelBlock {
  try {
    return panel.validateSync(value, { strict: true }) as unknown as PanelBlock
  } catch (error) {
    if (error instanceof ValidationError) throw new DefinitionError(`The panel has a fault: ${error.errors[0]}.`)
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
