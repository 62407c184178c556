import { becomesTable, isArchive } from '../../core/intake/endings'

/** Files that become tables, in the order of their names. */
export const tableFiles = (files: readonly File[]): File[] =>
  files.filter(file => becomesTable(file.name) || isArchive(file.name)).sort((a, b) => (a.name < b.name ? -1 : 1))

/** What was dropped: files as they are, and of folders all files in them, at any depth, that become tables. */
export async function droppedFiles(items: DataTransferItemList): Promise<File[]> {
  // the list is empty once the event is over
  const entries = [...items].map(item => item.webkitGetAsEntry()).filter(entry => entry !== null)
  const found = await Promise.all(
    entries.map(async entry => {
      const files = await filesIn(entry)
      return entry.isDirectory ? tableFiles(files) : files
    }),
  )
  return found.flat()
}

async function filesIn(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))]
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const found: File[] = []
  for (;;) {
    // a folder is told in parts
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (!part.length) return found
    for (const each of part) found.push(...(await filesIn(each)))
  }
}
