/** Endings of names of files that become tables, by the kind of file. */
export const fileEndings = {
  delimited: ['.csv', '.tsv', '.tab', '.txt'],
  workbook: ['.xlsx', '.xlsm'],
  json: ['.json', '.jsonl', '.ndjson'],
  parquet: ['.parquet'],
  sqlite: ['.sqlite', '.sqlite3', '.db'],
} as const satisfies Record<string, readonly string[]>

/** An archive whose files become tables. */
export const archiveEnding = '.zip'

const endings: readonly string[] = Object.values(fileEndings).flat()
const endingOf = (name: string) => /\.[^.]*$/.exec(name)?.[0].toLowerCase() ?? ''

/** Does a file become a table, by its name? */
export const becomesTable = (name: string) => endings.includes(endingOf(name))
export const isArchive = (name: string) => endingOf(name) === archiveEnding

/** For a sentence, and for a chooser of files. */
export const endingWords = endings.join(', ')
export const chosenEndings = [...endings, archiveEnding].join(',')
