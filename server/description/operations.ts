import { outputs, outputFormats, runFormats } from '../../core/api/outputs'
import type { requests } from '../../core/api/requests'
import { runStates } from '../../core/api/runs'
import type { JsonSchema } from '../../core/plain/jsonSchema'

/** A part of a question after the `?` of an address. */
interface Question {
  name: string
  about: string
  schema: JsonSchema
  required?: true
}

/** What a route does, for those who write programs against it. */
export interface Operation {
  about: string
  /** the check that its body has to pass */
  body?: keyof typeof requests
  asks?: readonly Question[]
  /** what it answers with, where that is not plain JSON: types of content */
  content?: readonly string[]
  /** of an answer in JSON */
  answer?: JsonSchema
}

const text: JsonSchema = { type: 'string' }
const whole: JsonSchema = { type: 'integer', minimum: 0 }
const object = (properties: Record<string, JsonSchema>): JsonSchema => ({ type: 'object', properties, required: Object.keys(properties) })
const list = (items: JsonSchema): JsonSchema => ({ type: 'array', items })
const id = object({ id: text })
const version = object({ version: whole })
const files = object({ files: list(object({ path: text, base64: text })) })
const names = list(text)

/** Parts of an address by which a file is asked for, as core/api/outputs reads them. */
const outputParts: readonly Question[] = [
  { name: 'format', about: 'What is made of the run.', schema: { enum: runFormats }, required: true },
  { name: 'level', about: 'Of CSV, JSON and Parquet: the level whose rows it holds.', schema: text },
  { name: 'crosstab', about: 'Of CSV and JSON: the crosstab whose cells it holds.', schema: text },
  { name: 'printed', about: 'Of CSV: the block, or “layout”, that it holds as it is printed.', schema: text },
  { name: 'separator', about: 'Of CSV: what stands between fields.', schema: { enum: ['comma', 'semicolon', 'tab'] } },
  { name: 'decimal', about: 'Of CSV: the mark of decimals.', schema: { enum: ['point', 'comma'] } },
  { name: 'guard', about: 'Of CSV: texts that a spreadsheet would run get an apostrophe.', schema: { enum: ['yes', 'no'] } },
  { name: 'mark', about: 'Of CSV: the file begins with a byte order mark.', schema: { enum: ['yes', 'no'] } },
  { name: 'sheets', about: 'Of a workbook: what a sheet is.', schema: { enum: ['one', 'documents', 'groups'] } },
  { name: 'rows', about: 'Of a workbook: the level whose plain rows have a sheet.', schema: text },
  { name: 'version', about: 'Of payments: the version of pain.001.001.', schema: { enum: ['09', '03'] } },
]
const contentOf = (formats: readonly (keyof typeof outputs)[]): string[] => [
  ...new Set(formats.map(format => outputs[format].contentType.split(';')[0]!)),
]

/**
 * The part of the API that programs are written against: runs, their files, answers, and definitions. Routes by their method and path; a
 * test holds them against the table of rights, and each body against the check that its route makes.
 */
export const operations: Readonly<Record<string, Operation>> = {
  'GET /api/library': { about: 'All shelves with the reports that whoever asks may run.' },
  'GET /api/library/files': { about: 'The library as the files of a folder of texts.', answer: files },
  'POST /api/library/files': {
    about: 'Takes the files of a folder of texts into the library; all is looked at before anything is changed.',
    body: 'folder',
    answer: object({ created: names, changed: names, published: names, guarded: names, same: whole, left: names }),
  },
  'POST /api/library/check': { about: 'Checks the files of a folder of texts, or runs the tests among them.', body: 'check' },
  'GET /api/schema/report': { about: 'The JSON Schema of a report’s file.' },
  'GET /api/schema/api': { about: 'This description.' },
  'GET /api/params': {
    about: 'The parameters of a report, with their kinds and first choices.',
    asks: [{ name: 'report', about: 'Name or id of the report.', schema: text, required: true }],
  },
  'POST /api/order': {
    about: 'A whole run into one file, by the name of a report or with a definition; what it counted stands in x-estante-result.',
    body: 'order',
    content: contentOf(outputFormats).concat('application/octet-stream'),
  },
  'GET /api/runs': {
    about: 'Runs that are kept, the newest first.',
    asks: [
      { name: 'report', about: 'Only of this report, by its id.', schema: text },
      { name: 'person', about: 'Only of this person, by their id.', schema: text },
      { name: 'state', about: 'Only in this state.', schema: { enum: [...runStates] } },
      { name: 'day', about: 'Only of this day.', schema: { type: 'string', format: 'date' } },
    ],
  },
  'POST /api/runs': { about: 'Starts a run of the published version.', body: 'run', answer: id },
  'PUT /api/runs/keeping': { about: 'How many runs are kept, and how long.', body: 'keeping', answer: version },
  'GET /api/runs/:id': {
    about: 'How far a run is, and what it came to.',
    asks: [
      { name: 'wait', about: '1: the answer comes when there is news, after ten seconds at the latest.', schema: { enum: ['1'] } },
      { name: 'pages', about: 'With wait: how many pages are known.', schema: whole },
      { name: 'seen', about: 'How many entries of the outline are known.', schema: whole },
    ],
  },
  'PUT /api/runs/:id': {
    about: 'A run stays, whatever is cleaned up, or does not any more.',
    body: 'pinned',
    answer: object({ pinned: { type: 'boolean' } }),
  },
  'DELETE /api/runs/:id': { about: 'Cancels a run.', answer: object({ cancelled: { type: 'boolean' } }) },
  'GET /api/runs/:id/changes': {
    about: 'What a run differs in from an earlier one of the same report.',
    asks: [{ name: 'since', about: 'Id of the earlier run.', schema: text, required: true }],
  },
  'GET /api/runs/:id/file': { about: 'A finished run as a file.', asks: outputParts, content: contentOf(runFormats) },
  'GET /api/runs/:id/pages': {
    about: 'A stretch of at most 20 pages, as what is drawn on them.',
    asks: [
      { name: 'from', about: 'The first page, counted from 0.', schema: whole },
      { name: 'to', about: 'The page after the last.', schema: whole },
    ],
  },
  'POST /api/runs/:id/behind': { about: 'The records behind a figure on a page of a finished run.', body: 'behind' },
  'POST /api/reports': { about: 'A new report on a shelf.', body: 'create', answer: id },
  'POST /api/reports/import': { about: 'A new report from the text of a definition.', body: 'import', answer: id },
  'GET /api/reports/:id': {
    about: 'A report with its definition: the draft, or with “published” what readers run.',
    asks: [{ name: 'which', about: 'The draft where it is left out.', schema: { enum: ['draft', 'published'] } }],
  },
  'PUT /api/reports/:id': { about: 'Saves a draft that names the version it is based on.', body: 'save', answer: version },
  'DELETE /api/reports/:id': { about: 'Puts a report away; it can be brought back for some days.' },
  'POST /api/reports/:id/restore': { about: 'Brings a report back that was put away.' },
  'POST /api/reports/:id/copy': { about: 'Copies a report beside itself.' },
  'GET /api/reports/:id/export': { about: 'The definition as a file.' },
  'PUT /api/reports/:id/name': { about: 'Calls a report otherwise.', body: 'renameReport', answer: object({ name: text }) },
  'PUT /api/reports/:id/place': { about: 'Puts a report on a shelf, before another one or at its end.', body: 'placeReport' },
  'GET /api/reports/:id/answers': { about: 'Answers that are kept under names.' },
  'POST /api/reports/:id/answers': { about: 'Keeps answers under a name, or lets them go where none are given.', body: 'keepAnswers' },
  'GET /api/reports/:id/first-page': { about: 'The first page of a report with the defaults of its parameters.' },
  'GET /api/reports/:id/pinned': {
    about: 'Rows that the report is designed against, packed; nothing where none are.',
    content: ['application/octet-stream'],
  },
  'POST /api/reports/:id/pinned': { about: 'Reads rows anew and pins them.', body: 'rows', content: ['application/octet-stream'] },
  'PUT /api/reports/:id/pinned': { about: 'Takes in rows from a file.', body: 'importRows', content: ['application/octet-stream'] },
  'GET /api/reports/:id/rows': {
    about: 'The pinned rows as a file.',
    asks: [
      { name: 'format', about: 'JSON of all levels where it is left out, or CSV of one.', schema: { enum: ['json', 'csv'] } },
      { name: 'level', about: 'Of CSV: the level.', schema: text },
    ],
    content: ['application/json', 'text/csv'],
  },
  'GET /api/reports/:id/addresses': { about: 'Refresh addresses of a report, without their secrets.' },
  'POST /api/reports/:id/addresses': {
    about: 'A refresh address with fixed answers; its secret is told only in this answer.',
    body: 'address',
  },
  'GET /api/reports/:id/publish': { about: 'What was published, when and by whom, and what publishing the draft would change.' },
  'POST /api/reports/:id/publish': { about: 'Makes the draft what readers run, or asks a second person to.' },
  'POST /api/reports/:id/publish/decide': { about: 'A second person releases what waits, or refuses it.', body: 'decide' },
  'GET /api/reports/:id/audience': { about: 'Who runs and who edits a report.' },
  'PUT /api/reports/:id/audience': { about: 'Says anew who runs and who edits a report.', body: 'audience' },
  'GET /api/reports/:id/uses': { about: 'What stands on a report and stops where it is put away.' },
  'GET /api/reports/:id/versions': { about: 'The last versions of a report, and all that have a name.' },
  'GET /api/reports/:id/versions/:number': { about: 'The definition of one version.' },
  'PUT /api/reports/:id/versions/:number': { about: 'Gives a version a name, or takes it away.', body: 'nameVersion' },
  'POST /api/reports/:id/swap': { about: 'Points a report at another source: its next version.', body: 'keepSwap' },
  'POST /api/reports/:id/swap/check': { about: 'What a report lacks in another source under chosen names.', body: 'swap' },
  'POST /api/reports/:id/swap/proof': { about: 'A report run on two sources: do both print the same?', body: 'proveSwap' },
  'POST /api/reports/:id/swap/propose': { about: 'What a report needs, and what is proposed for it.', body: 'proposeSwap' },
}
