import { createWriteStream, rmSync } from 'node:fs'
import { basename, join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { randomUUID } from 'node:crypto'
import { becomesTable, endingWords } from '../../../core/intake/endings'
import { needRoom } from '../../engine/files'
import { openArchive } from './kinds/archive'
import { FileFault } from './kinds/kind'
import type { BroughtPath } from './take.worker'

/**
 * The files of an archive that become tables, each under a name of our own in a folder; others are left in it. @throws FileFault,
 * FullDiskError
 */
export async function unpack(path: string, name: string, folder: string): Promise<BroughtPath[]> {
  const { entries, close } = await openArchive(path, name)
  const files: BroughtPath[] = []
  try {
    // what some systems put beside each file begins with a dot
    const wanted = entries.filter(entry => becomesTable(entry.name) && !/(^|\/)(\.|__MACOSX\/)/.test(entry.name))
    if (!wanted.length) throw new FileFault(`“${name}” holds no files that become tables (${endingWords}); choose another.`)
    needRoom(folder, wanted.reduce((sum, entry) => sum + entry.size, 0) + 20 * 2 ** 20)
    for (const entry of wanted) {
      const file = { path: join(folder, randomUUID()), name: basename(entry.name.replaceAll('\\', '/')) }
      files.push(file)
      await pipeline(await entry.open(), createWriteStream(file.path))
    }
    return files
  } catch (error) {
    for (const file of files) rmSync(file.path, { force: true })
    throw error
  } finally {
    close()
  }
}
