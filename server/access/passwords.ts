import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'

const derive = promisify(scrypt) as (password: string, salt: Buffer, length: number, options: object) => Promise<Buffer>

/** Cost of a new hash: about 200 ms of one core (RFC 7914: N, r, p); one that was made at another cost keeps it. */
const cost = { N: 16_384, r: 8, p: 5 }
const length = 32

/** Characters that a password has at least, and at most: more are no use, and would be work. */
export const leastCharacters = 12
const mostCharacters = 200

/** Letters that look alike when they are written another way are the same password. */
const plain = (password: string) => password.normalize('NFKC')

/** A password as it is kept: with its cost and a salt of its own. */
export async function hashedPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  const hash = await derive(plain(password), salt, length, cost)
  return ['scrypt', cost.N, cost.r, cost.p, salt.toString('base64url'), hash.toString('base64url')].join('$')
}

/** A hash that no password has: who is not there takes as long as who is. */
const nobody = ['scrypt', cost.N, cost.r, cost.p, randomBytes(16).toString('base64url'), randomBytes(length).toString('base64url')].join(
  '$',
)

/** Is it the password of this hash? Takes the same time whether there is one. */
export async function isPassword(password: string, kept: string | null | undefined): Promise<boolean> {
  const [, N, r, p, salt, hash] = (kept ?? nobody).split('$')
  const wanted = Buffer.from(hash!, 'base64url')
  const found = await derive(plain(password.slice(0, mostCharacters + 1)), Buffer.from(salt!, 'base64url'), wanted.length, {
    N: Number(N),
    r: Number(r),
    p: Number(p),
  })
  return timingSafeEqual(found, wanted) && kept !== null && kept !== undefined
}

/** What is wrong with a new password, in a sentence; nothing where it can be taken. `names` are what its owner is called. */
export function passwordFault(password: string, names: readonly string[], common: (password: string) => boolean): string | undefined {
  const letters = [...plain(password)]
  if (letters.length < leastCharacters)
    return `The password has ${letters.length} ${letters.length === 1 ? 'character' : 'characters'}; take at least ${leastCharacters}.`
  if (letters.length > mostCharacters) return `The password is longer than ${mostCharacters} characters; take a shorter one.`
  const small = plain(password).toLowerCase()
  if (new Set(letters).size < 5) return 'The password says the same few characters again and again; take another.'
  if (names.some(name => name.length > 3 && small.includes(name.toLowerCase())))
    return 'The password holds the name of who signs in with it; take another.'
  if (common(small)) return 'The password is one of those that are tried first; take another.'
  return undefined
}
