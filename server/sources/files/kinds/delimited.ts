import { fileEndings } from '../../../../core/intake/endings'
import { EncodingFault } from '../../../../core/intake/encoding'
import { readDelimited, type Written, writtenAs } from '../delimitedFile'
import type { FileKind, OpenedFile } from './kind'

const separators: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' }

const opened = (path: string, written: Written): OpenedFile => ({
  tables: [{ name: '' }],
  written: `${separators[written.separator] ?? written.separator} between cells · ${written.encoding.toUpperCase()}`,
  typed: false,
  rows: (_, onRow, { bytes, ...more }) =>
    readDelimited(path, written, onRow, { ...more, ...(bytes ? { bytes: () => bytes(written.separator) } : {}) }),
  // Windows-1252 explains any bytes
  otherwise: error =>
    error instanceof EncodingFault && written.encoding === 'utf-8' ? opened(path, { ...written, encoding: 'windows-1252' }) : undefined,
})

/** Separated values: CSV (RFC 4180) and what is met beside it. */
export const delimited: FileKind = {
  endings: fileEndings.delimited,
  name: 'separated values',
  open: async path => opened(path, await writtenAs(path)),
}
