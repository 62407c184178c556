import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import { unzipSync } from 'fflate'
import { UsageError } from './usage'

/** A folder that the files of a ZIP go into, each by itself. */
export interface OutFolder {
  /** a place of its own for what is on its way */
  passing: string
  /** puts the files of a ZIP into the folder, and comes back with how many; files of the same names are replaced */
  take: (zip: string) => number
}

/** @throws UsageError where the folder cannot be made */
export function outFolder(written: string): OutFolder {
  const folder = resolve(written)
  if (!existsSync(dirname(folder))) throw new UsageError(`There is no folder ${dirname(folder)} to write into.`)
  try {
    mkdirSync(folder, { recursive: true })
  } catch (error) {
    throw new UsageError(`${folder} cannot be made (${(error as NodeJS.ErrnoException).code}); name another folder.`)
  }
  const passing = mkdtempSync(join(folder, '.estante-'))
  process.on('exit', () => rmSync(passing, { recursive: true, force: true }))
  return {
    passing,
    take: zip => {
      const files = Object.entries(unzipSync(readFileSync(zip)))
      for (const [name, bytes] of files) writeFileSync(join(folder, name), bytes)
      return files.length
    },
  }
}
