import { createHash, randomBytes } from 'node:crypto'

/** A secret that nobody guesses, as letters of an address. */
export const newSecret = (): string => randomBytes(32).toString('base64url')

/** Does a text look like one of ours? What does not is not looked for. */
export const isSecret = (text: string): boolean => /^[\w-]{43}$/.test(text)

/** What of a secret is kept (SHA-256): who reads the store cannot use it. It is random, so that nothing slower is needed. */
export const hashedSecret = (secret: string): string => createHash('sha256').update(secret).digest('hex')
