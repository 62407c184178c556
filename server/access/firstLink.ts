import { randomBytes } from 'node:crypto'
import { sameText } from './sameText'

/** The key of the link by which the first administrator is made: another with every start, known to the terminal alone. */
export class FirstLink {
  readonly key = randomBytes(24).toString('base64url')

  is(key: string): boolean {
    return sameText(this.key, key)
  }
}
