import type { FileOutput } from './registry'

/** What a file was asked to be, which cannot be made: one sentence. */
export class OutputError extends Error {}

const allowed = { sheets: ['one', 'documents', 'groups'], separator: ['comma', 'semicolon', 'tab'], decimal: ['point', 'comma'] } as const

/**
 * Reads what a file is to be out of words, as they stand in an address or on the command line.
 * @throws OutputError with one sentence
 */
export function readOutput(asked: Readonly<Record<string, unknown>>): FileOutput {
  const word = (name: string) => (typeof asked[name] === 'string' && asked[name] !== '' ? (asked[name] as string) : undefined)
  const among = <Name extends keyof typeof allowed>(name: Name): Record<string, string> => {
    const value = word(name)
    if (value === undefined) return {}
    if (!(allowed[name] as readonly string[]).includes(value))
      throw new OutputError(`There is no ${name} “${value.slice(0, 40)}”; there are ${allowed[name].join(', ')}.`)
    return { [name]: value }
  }
  const level = word('level')
  const yes = (name: string) => (word(name) === 'yes' ? { [name]: true } : {})
  switch (asked.format) {
    case 'pdf':
    case 'zip':
      return { format: asked.format }
    case 'xlsx':
      return { format: 'xlsx', ...among('sheets'), ...(word('rows') ? { rows: word('rows')! } : {}) }
    case 'csv': {
      if (!level) throw new OutputError('CSV holds the rows of one level; say which.')
      return { format: 'csv', level, ...among('separator'), ...among('decimal'), ...yes('guard'), ...yes('mark') }
    }
    case 'json':
      return { format: 'json', ...(level ? { level } : {}) }
    case 'xml':
    case 'html':
      return { format: asked.format }
    default:
      throw new OutputError(`There is no format “${String(asked.format).slice(0, 40)}”; there are pdf, zip, xlsx, csv, json, xml and html.`)
  }
}

export const contentTypes: Record<FileOutput['format'], string> = {
  pdf: 'application/pdf',
  zip: 'application/zip',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  csv: 'text/csv; charset=utf-8',
  json: 'application/json; charset=utf-8',
  xml: 'application/xml; charset=utf-8',
  html: 'text/html; charset=utf-8',
}
