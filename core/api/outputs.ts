import { type PainVersion, painVersions } from '../payment/pain'

/** What a file was asked to be, which cannot be made: one sentence. */
export class OutputError extends Error {}

/** Fields of a line of CSV stand apart by one of these. */
export const csvSeparators = { comma: ',', semicolon: ';', tab: '\t' } as const

/**
 * How CSV is written. `guard` puts an apostrophe before a text that a spreadsheet would run as a formula; `mark` begins the file with a
 * byte order mark, by which some programs know UTF-8.
 */
export interface CsvOptions {
  separator?: keyof typeof csvSeparators
  decimal?: 'point' | 'comma'
  guard?: boolean
  mark?: boolean
}

const sheetWays = ['one', 'documents', 'groups'] as const
/** Sheets of a workbook: one for all, one per document, or one per outermost group. */
export type SheetsBy = (typeof sheetWays)[number]

/** What a run can be made into; `level` names the level whose rows it holds, `rows` that of a sheet of plain rows. */
export type Output =
  | { format: 'pdf' | 'zip' | 'html' | InvoiceSyntax }
  | { format: 'xml' }
  | { format: 'xlsx'; sheets?: SheetsBy; rows?: string }
  | ({ format: 'csv' } & CsvOf & CsvOptions)
  | { format: 'json'; level?: string; crosstab?: string }
  | { format: 'parquet'; level: string }
  | { format: 'csvw' }
  | { format: 'pain'; version?: PainVersion }
  | { format: 'svg'; page: number }

/**
 * E-invoices of EN 16931, one file for each document in a ZIP: in the syntax of UN/CEFACT, in that of OASIS UBL, or the former within the
 * PDF that people read (Factur-X, ZUGFeRD).
 */
export const invoiceSyntaxes = ['cii', 'ubl', 'hybrid'] as const
export type InvoiceSyntax = (typeof invoiceSyntaxes)[number]
export const isInvoiceSyntax = (format: string): format is InvoiceSyntax => (invoiceSyntaxes as readonly string[]).includes(format)

/** In place of a block's id: the whole layout. */
export const wholeLayout = 'layout'

/** What CSV holds: the rows of a level, the cells of a crosstab one by one, or a layout, or one block of it, as it is printed. */
export type CsvOf = { level: string } | { crosstab: string } | { printed: string }

interface OutputKind {
  contentType: string
  /** the end of a file's name, where that is not the format */
  extension?: string
  /** from words, as they stand in an address or on the command line */
  read: (asked: Asked) => Output
  /** a reader can have it of a run that is kept */
  ofRun: boolean
  /** a spreadsheet can read it again and again */
  refreshable?: boolean
}

/** Words of what is asked, each read as the option that it is. @throws OutputError */
class Asked {
  constructor(private readonly words: Readonly<Record<string, unknown>>) {}

  word(name: string): string | undefined {
    const value = this.words[name]
    return typeof value === 'string' && value !== '' ? value : undefined
  }

  among<T extends string>(name: string, allowed: readonly T[]): Partial<Record<string, T>> {
    const value = this.word(name)
    if (value === undefined) return {}
    if (!(allowed as readonly string[]).includes(value))
      throw new OutputError(`There is no ${name} “${value.slice(0, 40)}”; there are ${allowed.join(', ')}.`)
    return { [name]: value as T }
  }

  yes(name: string): Partial<Record<string, true>> {
    return this.among(name, ['yes', 'no'])[name] === 'yes' ? { [name]: true } : {}
  }
}

function csvOf(asked: Asked): CsvOf {
  const found = (['level', 'crosstab', 'printed'] as const).flatMap(name => {
    const value = asked.word(name)
    return value ? [{ [name]: value } as CsvOf] : []
  })
  if (found.length !== 1) throw new OutputError('CSV holds the rows of one level, or the cells of one crosstab; say which.')
  return found[0]!
}

const plain = (format: 'pdf' | 'zip' | 'xml' | 'html' | 'csvw' | InvoiceSyntax, contentType: string): OutputKind => ({
  contentType,
  ofRun: true,
  read: () => ({ format }),
})

/** All formats of files: nothing else knows which there are. A writer of each stands in server/runs/formats. */
export const outputs: Record<Output['format'], OutputKind> = {
  pdf: plain('pdf', 'application/pdf'),
  zip: plain('zip', 'application/zip'),
  xlsx: {
    contentType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    ofRun: true,
    read: asked => {
      const rows = asked.word('rows')
      return { format: 'xlsx', ...asked.among('sheets', sheetWays), ...(rows ? { rows } : {}) }
    },
  },
  csv: {
    contentType: 'text/csv; charset=utf-8',
    ofRun: true,
    refreshable: true,
    read: asked => {
      return {
        format: 'csv',
        ...csvOf(asked),
        ...asked.among('separator', Object.keys(csvSeparators)),
        ...asked.among('decimal', ['point', 'comma']),
        ...asked.yes('guard'),
        ...asked.yes('mark'),
      } as Output
    },
  },
  json: {
    contentType: 'application/json; charset=utf-8',
    ofRun: true,
    refreshable: true,
    read: asked => {
      const [level, crosstab] = [asked.word('level'), asked.word('crosstab')]
      if (level && crosstab) throw new OutputError('JSON holds the records of a level or the cells of a crosstab; say one of them.')
      return { format: 'json', ...(level ? { level } : {}), ...(crosstab ? { crosstab } : {}) }
    },
  },
  xml: plain('xml', 'application/xml; charset=utf-8'),
  parquet: {
    contentType: 'application/vnd.apache.parquet',
    ofRun: true,
    read: asked => {
      const level = asked.word('level')
      if (!level) throw new OutputError('Parquet holds the rows of one level; say which.')
      return { format: 'parquet', level }
    },
  },
  csvw: { ...plain('csvw', 'application/zip'), extension: 'zip' },
  html: plain('html', 'text/html; charset=utf-8'),
  cii: { ...plain('cii', 'application/zip'), extension: 'zip' },
  ubl: { ...plain('ubl', 'application/zip'), extension: 'zip' },
  hybrid: { ...plain('hybrid', 'application/zip'), extension: 'zip' },
  pain: {
    contentType: 'application/xml; charset=utf-8',
    extension: 'xml',
    ofRun: true,
    read: asked => ({ format: 'pain', ...asked.among('version', painVersions) }),
  },
  svg: {
    contentType: 'image/svg+xml',
    ofRun: false,
    read: asked => {
      const page = asked.word('page') ?? '1'
      if (!/^[1-9]\d*$/.test(page)) throw new OutputError(`“${page.slice(0, 40)}” is no page number.`)
      return { format: 'svg', page: Number(page) }
    },
  },
}

/** The end of the name of a file of a format. */
export const extensionOf = (format: Output['format']): string => outputs[format].extension ?? format

/** The formats that can be asked for, in the order in which they are told. */
export const outputFormats = Object.keys(outputs) as Output['format'][]

/**
 * Reads what a file is to be out of words, as they stand in an address or on the command line.
 * @throws OutputError with one sentence
 */
export function readOutput(words: Readonly<Record<string, unknown>>, formats: readonly string[] = outputFormats): Output {
  const { format } = words
  if (typeof format !== 'string' || !formats.includes(format))
    throw new OutputError(
      typeof format === 'string' && format
        ? `There is no format “${format.slice(0, 40)}”; there are ${formats.join(', ')}.`
        : `Say which format is wanted; there are ${formats.join(', ')}.`,
    )
  return outputs[format as Output['format']].read(new Asked(words))
}

/** Formats that a kept run can be written as. */
export const runFormats = outputFormats.filter(format => outputs[format].ofRun)
/** Formats that a refresh address can give. */
export const refreshFormats = outputFormats.filter(format => outputs[format].refreshable)
