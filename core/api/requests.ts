import { array, boolean, type InferType, lazy, mixed, number, object, type Schema, string, ValidationError } from 'yup'

import { mailShape, printersShape } from '../pack/outside'
import { isZone } from '../pack/companyDays'
import { parseDay } from '../value/date'
import { languageTags, type Role, roles } from './people'
import { type Guard, guardsShape as guardsOf } from '../guard/guards'
import type { SourceNames } from '../swap/names'
import { checkSent, faultOf, namesOf, recordOf, SentError } from '../value/checking'

/** A request that is not as it should be: one sentence. */
export class RequestError extends Error {}

const text = () => string().strict().defined().max(4000)
const name = () => string().strict().required().max(200)
/** Answers that a request may bring: reports have far fewer parameters. */
const mostAnswers = 500
const answers = lazy((value: unknown) => {
  const names = namesOf(value)
  return object(Object.fromEntries(names.slice(0, mostAnswers).map(key => [key, string().strict().defined().max(100_000)])))
    .strict()
    .required()
    .test('many', `answers are at most ${mostAnswers}`, () => names.length <= mostAnswers)
})
const definition = mixed<object>((value): value is object => typeof value === 'object' && value !== null && !Array.isArray(value))
/** Files of a folder of definitions. */
const folderFiles = array(object({ path: string().strict().required().max(1000), base64: string().strict().defined() }).noUnknown())
  .max(20_000)
  .required()
const role = () => mixed<Role>().oneOf([...roles])
const whole = () => number().strict().integer().min(0).max(2_000_000_000)
const words = mixed<Record<string, unknown>>((value): value is Record<string, unknown> => typeof value === 'object' && value !== null)

/** A report as readers run it, or a definition as it is being edited, with answers. Every request that reads rows is one of these. */
const askedFields = { report: string().strict().max(200), definition, answers, dataSet: whole().max(1000) }
export interface Asked {
  report?: string | undefined
  definition?: object | undefined
  answers: Record<string, string>
  dataSet?: number | undefined
}

/** What somebody says of a file, against what was understood. */
const form = object({
  type: mixed<'text' | 'number' | 'date' | 'moment' | 'boolean'>().oneOf(['text', 'number', 'date', 'moment', 'boolean']).required(),
  decimal: mixed<'.' | ','>().oneOf(['.', ',']),
  order: mixed<'ymd' | 'dmy' | 'mdy'>().oneOf(['ymd', 'dmy', 'mdy']),
})
  .noUnknown()
  .test('whole', 'a number says its decimal mark, a date the order of day, month and year', value =>
    value.type === 'number' ? !!value.decimal : value.type === 'date' || value.type === 'moment' ? !!value.order : true,
  )
const saidFields = {
  table: string().strict().max(200),
  titles: boolean().strict(),
  titleLine: whole().min(1),
  without: array(whole().required()).max(1000),
  sheet: string().strict().max(200),
  forms: lazy((value: unknown) =>
    value === undefined
      ? mixed().notRequired()
      : object(
          Object.fromEntries(
            namesOf(value)
              .slice(0, 5000)
              .map(key => [key, form]),
          ),
        )
          .strict()
          .required(),
  ),
}

/** What somebody says of a server that is to be read in place. */
const serverFields = {
  url: string().strict().required().max(2000),
  password: string().strict().max(1000),
  schemas: array(name()).max(200),
  zone: string().strict().max(100),
  day: string().strict().max(10),
  evenSuperuser: boolean().strict(),
}

/** What somebody says of a database that is to be copied. */
const copyFields = {
  url: string().strict().required().max(2000),
  password: string().strict().max(1000),
  tables: array(name()).max(5000),
  /** columns that grow with each change, by their tables */
  grows: recordOf(name(), true).optional() as unknown as Schema<Record<string, string> | undefined>,
}

/** Under which names a report reads a source; an empty text leaves a table or a column out. */
const shownName = string().strict().defined().max(200)
const sourceNames = object({ tables: recordOf(object({ table: shownName, columns: recordOf(shownName, true) }).noUnknown(), true) })
  .noUnknown()
  .required() as unknown as Schema<SourceNames>

const pair = object({ from: name(), to: name() }).noUnknown()

const guardsShape = guardsOf as unknown as Schema<Guard[]>

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
    sample: boolean().strict(),
  }).noUnknown(),
  profile: object({ ...askedFields, level: name(), path: name(), search: string().strict().max(1000) }).noUnknown(),
  draft: object({
    source: string().strict().defined().max(200),
    table: name(),
    title: string().strict().max(200),
    kind: mixed<'document' | 'groups' | 'list'>().oneOf(['document', 'groups', 'list']),
    joins: array(object({ level: name(), table: name() }).noUnknown().required()).max(100),
  }).noUnknown(),
  split: object({ ...askedFields, table: name(), key: array(name()).required().min(1), columns: array(name()).required() }).noUnknown(),
  trace: object({
    ...askedFields,
    statement: name(),
    line: name(),
    column: name(),
    account: string().strict().max(200),
    run: string().strict().max(100),
  }).noUnknown(),
  signIn: object({ name: name(), password: string().strict().defined().max(500), code: string().strict().max(100) }).noUnknown(),
  demoSignIn: object({ person: name() }).noUnknown(),
  first: object({ key: name(), name: name(), signIn: name(), password: string().strict().defined().max(500) }).noUnknown(),
  person: object({ name: name(), signIn: name(), role: role().required(), password: string().strict().defined().max(500) }).noUnknown(),
  changePerson: object({
    name: string().strict().max(200),
    role: role(),
    /** false takes their second factor away */
    second: boolean().strict().oneOf([false]),
    password: string().strict().max(500),
  }).noUnknown(),
  code: object({ code: name() }).noUnknown(),
  leaveSecond: object({ password: string().strict().defined().max(500), code: name() }).noUnknown(),
  provider: object({ basedOn: whole().required(), settings: words.required() }).noUnknown(),
  team: object({
    name: name(),
    attributes: recordOf(array(string().strict().defined().max(200)).required().max(1000), true) as unknown as Schema<
      Record<string, string[]>
    >,
    people: array(name()).required().max(5000),
  }).noUnknown(),
  audience: object({
    toAll: boolean().strict().required(),
    teams: array(name()).required().max(500),
    editing: mixed<'all' | 'teams' | 'owner'>().oneOf(['all', 'teams', 'owner']).required(),
    editors: array(name()).required().max(500),
  }).noUnknown(),
  pinned: object({ pinned: boolean().strict().required() }).noUnknown(),
  keeping: object({
    runs: whole().min(1).max(100_000).required(),
    days: whole().min(1).max(36_500).required(),
    basedOn: whole(),
  }).noUnknown(),
  newPack: object({ name: name(), definition: mixed() }).noUnknown(),
  pack: object({ name: name(), definition: mixed().required(), basedOn: whole().required() }).noUnknown(),
  mail: object({ basedOn: whole().required(), settings: lazy(value => (value === undefined ? mixed() : mailShape)) }).noUnknown(),
  mailTest: object({ settings: lazy(value => (value === undefined ? mixed() : mailShape)), to: name().max(320) }).noUnknown(),
  printers: object({ printers: printersShape, basedOn: whole().required() }).noUnknown(),
  printerTest: object({ address: name().max(500) }).noUnknown(),
  paper: object({ paper: boolean().strict().required() }).noUnknown(),
  packNext: object({ definition: mixed().required() }).noUnknown(),
  companyDays: object({
    zone: name().test(
      'zone',
      ({ path }) => `${path} must be a time zone such as Europe/Lisbon`,
      zone => isZone(zone ?? ''),
    ),
    workdays: array(whole().max(6).required()).required().min(1).max(7),
    holidays: array(
      object({
        day: name().test(
          'day',
          ({ path }) => `${path} must be a day such as 2026-12-25`,
          day => parseDay(day ?? '') !== undefined,
        ),
        name: text().max(200),
      }).noUnknown(),
    )
      .required()
      .max(2000),
    basedOn: whole().required(),
  }).noUnknown(),
  runPack: object({ answers, dry: boolean().strict().default(false) }).noUnknown(),
  decidePack: object({ released: boolean().strict().required(), reason: string().strict().trim().required().max(2000) }).noUnknown(),
  decideDelivery: object({ again: boolean().strict().required(), to: string().strict().max(320) }).noUnknown(),
  decide: object({ released: boolean().strict().required() }).noUnknown(),
  guards: object({
    basedOn: whole().required(),
    guards: guardsShape,
    released: array(string().strict().required().max(100_000)).required().max(500),
    parsed: boolean().strict().default(false),
  }).noUnknown(),
  countGuarded: object({ guards: guardsShape, team: name(), table: name() }).noUnknown(),
  token: object({ name: name(), scope: role().required(), until: name() }).noUnknown(),
  language: object({ language: string().strict().oneOf(languageTags).required() }).noUnknown(),
  password: object({ before: string().strict().defined().max(500), password: string().strict().defined().max(500) }).noUnknown(),
  behind: object({
    page: whole().required(),
    block: name(),
    row: string().strict().max(200),
    cell: name(),
    x: number().strict().required(),
    y: number().strict().required(),
  }).noUnknown(),
  describe: object({ definition: definition.required(), text: string().strict().required().max(100_000) }).noUnknown(),
  search: object({ value: name(), tables: array(name()).required().max(5000) }).noUnknown(),
  run: object({ report: name(), answers, layout: string().strict().max(200) }).noUnknown(),
  order: object({ report: name(), definition, answers, output: words.required(), layout: string().strict().max(200) }).noUnknown(),
  save: object({ basedOn: whole().required(), definition: definition.required() }).noUnknown(),
  create: object({ name: name().trim(), shelf: name().trim(), definition: definition.required() }).noUnknown(),
  import: object({ name: name(), shelf: name(), text: string().strict().required() }).noUnknown(),
  folder: object({ files: folderFiles }).noUnknown(),
  check: object({
    files: folderFiles,
    what: mixed<'check' | 'test'>().oneOf(['check', 'test']).required(),
    answers: lazy((value: unknown) => (value === undefined ? mixed<Record<string, string>>().notRequired() : (answers as never))),
  }).noUnknown(),
  importRows: object({
    definition: definition.required(),
    answers,
    format: mixed<'json' | 'csv'>().oneOf(['json', 'csv']).required(),
    level: string().strict().max(200),
    text: string().strict().defined(),
  }).noUnknown(),
  keepAnswers: object({ name: name().max(100), answers: answers.optional() }).noUnknown(),
  renameReport: object({ name: name().trim() }).noUnknown(),
  placeReport: object({ shelf: name(), before: string().strict().max(200) }).noUnknown(),
  addShelf: object({ name: name().trim() }).noUnknown(),
  changeShelf: object({
    name: string().strict().max(200).trim().min(1),
    move: number().strict().integer().min(-1000).max(1000),
    /** whose it is: a team's by its id, or with an empty text everybody's */
    team: string().strict().max(200),
    release: boolean().strict(),
  }).noUnknown(),
  nameVersion: object({ name: text().max(100) }).noUnknown(),
  address: object({ label: text().max(200), answers, output: words.required(), until: name() }).noUnknown(),
  settings: object({ basedOn: whole(), settings: words.required() }).noUnknown(),
  books: object({ ledger: mixed<object>(), fiscalYear: mixed<object>() }).noUnknown(),
  letterhead: object({ basedOn: whole(), panel: words.required() }).noUnknown(),
  said: object(saidFields).noUnknown(),
  addSource: object({
    name: name(),
    /** the folder that the files are of, which is watched from then on */
    watch: string().strict().max(1000),
    files: array(object({ id: name(), ...saidFields }).noUnknown())
      .required()
      .min(1)
      .max(500),
  }).noUnknown(),
  filesAgain: object({
    files: array(object({ id: name(), ...saidFields }).noUnknown())
      .required()
      .min(1)
      .max(500),
    evenSo: boolean().strict(),
  }).noUnknown(),
  tryEdit: object({ url: serverFields.url, password: serverFields.password }).noUnknown(),
  editSource: object({
    name: name(),
    server: object(serverFields).noUnknown().default(undefined).optional(),
    copy: object(copyFields).noUnknown().default(undefined).optional(),
    watch: text().max(1000).optional(),
    evenSo: boolean().strict(),
  }).noUnknown(),
  tryServer: object(serverFields).noUnknown(),
  addServer: object({ name: name(), ...serverFields }).noUnknown(),
  tryCopy: object(copyFields).noUnknown(),
  addCopy: object({ name: name(), ...copyFields }).noUnknown(),
  refresh: object({ generation: whole().min(1), evenSo: boolean().strict() }).noUnknown(),
  proposeSwap: object({ to: name() }).noUnknown(),
  swap: object({ to: name(), names: sourceNames }).noUnknown(),
  proveSwap: object({ to: name(), names: sourceNames, answers, layout: string().strict().max(200) }).noUnknown(),
  keepSwap: object({ to: name(), names: sourceNames, basedOn: whole().required() }).noUnknown(),
  /** what a desk takes is checked by the source that has it */
  desk: words.required(),
} as const

type Schemas = typeof requests
export type RequestBody<K extends keyof Schemas> = InferType<Schemas[K]>

/** Checks the body of a request. @throws RequestError with one sentence */
export function readRequest<K extends keyof Schemas>(kind: K, body: unknown): RequestBody<K> {
  try {
    if (body === undefined || body === null) throw new RequestError('The request brings nothing; send what it asks for as JSON.')
    checkSent(body)
    return requests[kind].validateSync(body, { strict: true }) as RequestBody<K>
  } catch (error) {
    if (error instanceof SentError) throw new RequestError(`The request ${error.message}`)
    if (error instanceof ValidationError) throw new RequestError(`The request is not complete: ${faultOf(error)}.`)
    throw error
  }
}
