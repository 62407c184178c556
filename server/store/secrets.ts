import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'
import { existsSync, linkSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { StoreError } from './records'

const algorithm = 'aes-256-gcm'
const [keyBytes, ivBytes, tagBytes] = [32, 12, 16]

/**
 * Secrets as they are kept: encrypted and authenticated (AES-256-GCM, NIST SP 800-38D), each bound to the record that it belongs to, so
 * that one cannot stand in for another. The key is `ESTANTE_KEY`, or a file of the data folder that only its owner may read.
 */
export class Secrets {
  private key: Buffer | undefined
  constructor(private readonly folder: string) {}

  /** @throws StoreError where there is no key */
  seal(record: string, text: string): string {
    const iv = randomBytes(ivBytes)
    const cipher = createCipheriv(algorithm, this.own(true), iv, { authTagLength: tagBytes })
    cipher.setAAD(Buffer.from(record))
    return Buffer.concat([iv, cipher.update(text, 'utf8'), cipher.final(), cipher.getAuthTag()]).toString('base64')
  }

  /** @throws StoreError where it was sealed by another key or for another record */
  open(record: string, sealed: string): string {
    const all = Buffer.from(sealed, 'base64')
    try {
      const cipher = createDecipheriv(algorithm, this.own(false), all.subarray(0, ivBytes), { authTagLength: tagBytes })
      cipher.setAAD(Buffer.from(record))
      cipher.setAuthTag(all.subarray(-tagBytes))
      return Buffer.concat([cipher.update(all.subarray(ivBytes, -tagBytes)), cipher.final()]).toString('utf8')
    } catch (error) {
      if (error instanceof StoreError) throw error
      throw new StoreError(
        'Its password cannot be read, because the key of this folder is not the one it was kept with; give it again.',
        500,
      )
    }
  }

  private own(make: boolean): Buffer {
    return (this.key ??= this.given() ?? this.kept(make))
  }

  private given(): Buffer | undefined {
    const given = process.env.ESTANTE_KEY
    if (!given) return undefined
    const plain = Buffer.from(given, 'base64')
    // a sentence as a key is as long as the algorithm wants once it is hashed
    return plain.length === keyBytes ? plain : createHash('sha256').update(given).digest()
  }

  private kept(make: boolean): Buffer {
    const path = join(this.folder, 'key')
    if (!existsSync(path)) {
      if (!make) throw new StoreError(`The key of this folder is gone (${path}); put it back, or give the passwords again.`, 500)
      // whole or not at all, and never over one that somebody else has just made
      const fresh = `${path}.${process.pid}`
      writeFileSync(fresh, randomBytes(keyBytes), { mode: 0o600 })
      try {
        linkSync(fresh, path)
      } catch (error) {
        if ((error as { code?: string }).code !== 'EEXIST') throw error
      } finally {
        rmSync(fresh, { force: true })
      }
    }
    const key = readFileSync(path)
    if (key.length !== keyBytes) throw new StoreError(`The key of this folder is damaged (${path}); put it back from a backup.`, 500)
    return key
  }
}
