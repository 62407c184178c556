import type { Readable } from 'node:stream'
import { Transform } from 'node:stream'
import { promisify } from 'node:util'
import yauzl from 'yauzl'
import { FileFault } from './kind'

/** A file within an archive. */
export interface Entry {
  name: string
  size: number
  open: () => Promise<Readable>
}

/** Bytes of a file in an archive, of all of them, and how often larger than packed they may be beyond the first hundred megabytes. */
const limits = { file: 4 * 2 ** 30, all: 8 * 2 ** 30, entries: 20_000, ratio: 200, free: 100 * 2 ** 20 }

/**
 * The files of a ZIP archive (APPNOTE.TXT of PKWARE). One that would unpack to far more than it says, or that is encrypted, is refused;
 * names are only looked at, never used as paths. @throws FileFault
 */
export async function openArchive(path: string, name: string): Promise<{ entries: Entry[]; close: () => void }> {
  const fail = (why: string) => new FileFault(`“${name}” cannot be read: ${why}`)
  let archive: yauzl.ZipFile
  try {
    archive = await promisify<string, yauzl.Options, yauzl.ZipFile>(yauzl.open)(path, { autoClose: false, lazyEntries: true })
  } catch {
    throw fail('it is not whole, or no archive at all; get it once more.')
  }
  const found: yauzl.Entry[] = []
  try {
    await new Promise<void>((resolve, reject) => {
      archive.on('error', reject)
      archive.on('end', resolve)
      archive.on('entry', (entry: yauzl.Entry) => {
        if (!entry.fileName.endsWith('/')) found.push(entry)
        if (found.length > limits.entries) reject(fail(`it holds more than ${limits.entries.toLocaleString('en')} files.`))
        else archive.readEntry()
      })
      archive.readEntry()
    })
    const all = found.reduce((sum, entry) => sum + entry.uncompressedSize, 0)
    for (const entry of found) {
      if (entry.generalPurposeBitFlag & 1) throw fail('it is locked with a password; save it without one.')
      const packed = Math.max(1, entry.compressedSize)
      if (entry.uncompressedSize > limits.file || (entry.uncompressedSize > limits.free && entry.uncompressedSize / packed > limits.ratio))
        throw fail(
          `“${entry.fileName.slice(-60)}” in it would unpack to ${Math.round(entry.uncompressedSize / 2 ** 20)} MB, which is not believed.`,
        )
    }
    if (all > limits.all) throw fail('its files are more than 8 GB together; bring them in parts.')
  } catch (error) {
    archive.close()
    throw error instanceof FileFault ? error : fail('it is damaged; get it once more.')
  }
  const open = promisify<yauzl.Entry, Readable>(archive.openReadStream.bind(archive))
  return {
    entries: found.map(entry => ({
      name: entry.fileName,
      size: entry.uncompressedSize,
      open: async () => {
        let bytes = 0
        // what an entry says of its size is not taken on trust
        const counted = new Transform({
          transform(chunk: Buffer, _encoding, done) {
            bytes += chunk.length
            done(bytes > entry.uncompressedSize ? fail('a file in it is larger than it says.') : null, chunk)
          },
        })
        const raw = await open(entry)
        raw.on('error', () => counted.destroy(fail('it is damaged; get it once more.')))
        return raw.pipe(counted)
      },
    })),
    close: () => archive.close(),
  }
}
