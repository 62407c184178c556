import { extname } from 'node:path'
import { delimited } from './kinds/delimited'
import { FileFault, type FileKind, type OpenedFile } from './kinds/kind'
import { json } from './kinds/json'
import { parquet } from './kinds/parquet'
import { sqlite } from './kinds/sqlite'
import { workbook } from './kinds/workbook'

/** Kinds of files that become tables: a line for each. */
const kinds: readonly FileKind[] = [delimited, workbook, json, parquet, sqlite]

/** Opens a file by the ending of its name. @throws FileFault */
export async function openFile(path: string, name: string): Promise<OpenedFile> {
  const ending = extname(name).toLowerCase()
  const kind = kinds.find(each => each.endings.includes(ending))
  if (kind) return kind.open(path, name)
  throw new FileFault(
    `“${name}” is of a kind that does not become a table${ending === '.xls' ? '; save it as an Excel workbook (.xlsx)' : ''}. ` +
      `There are ${kinds.map(each => `${each.name} (${each.endings.join(', ')})`).join(', ')}.`,
  )
}
