import { createHmac } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { temporaryFolder, tester } from '../../tests/support'
import { Secrets } from '../store/secrets'
import { Store } from '../store/store'
import { SecondFactor } from './secondFactor'

let store: Store
let now = Date.UTC(2026, 10, 30, 9, 0, 5)
let factor: SecondFactor
let person = ''
const password = 'nine grey gulls at noon'

/** The code of a moment, worked out by hand from RFC 6238 and RFC 4226: HMAC-SHA-1 over the step, truncated to six digits. */
function codeAt(secret: string, at: number): string {
  const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567'
  const bits = [...secret].map(letter => alphabet.indexOf(letter).toString(2).padStart(5, '0')).join('')
  const key = Buffer.from((bits.match(/.{8}/g) ?? []).map(byte => parseInt(byte, 2)))
  const step = Buffer.alloc(8)
  step.writeBigUInt64BE(BigInt(Math.floor(at / 30_000)))
  const hash = createHmac('sha1', key).update(step).digest()
  const offset = hash.at(-1)! & 15
  return String((hash.readUInt32BE(offset) & 0x7fffffff) % 1_000_000).padStart(6, '0')
}

beforeAll(async () => {
  const folder = temporaryFolder()
  store = await Store.open({ folder })
  store.secrets = new Secrets(folder)
  person = await store.people.add(tester, { name: 'Nuno', signIn: 'nuno', role: 'author', password })
  const [database, saved] = [Reflect.get(store.people, 'database'), Reflect.get(store.people, 'saved')] as never[]
  factor = new SecondFactor(
    database!,
    saved!,
    () => store.secrets,
    () => now,
  )
})
afterAll(() => store.close())

describe('a second factor', () => {
  let secret = ''
  let codes: string[] = []
  it('follows RFC 6238: the codes of its appendix come out of our own working', () => {
    const seed = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ'
    expect([59, 1111111109, 1234567890, 2000000000].map(seconds => codeAt(seed, seconds * 1000))).toEqual([
      '287082',
      '081804',
      '005924',
      '279037',
    ])
  })
  it('counts once a code of it was shown, and tells recovery codes once', async () => {
    ;({ secret } = await factor.begin({ id: person, signIn: 'nuno' }))
    expect((await store.people.account(person)).second).toBe(false)
    await expect(factor.confirm(person, '000000')).rejects.toThrow(/not right/)
    codes = await factor.confirm(person, codeAt(secret, now))
    expect((await store.people.account(person)).second).toBe(true)
    expect(new Set(codes).size).toBe(10)
    await expect(factor.begin({ id: person, signIn: 'nuno' })).rejects.toThrow(/already/)
  })
  it('is asked for beside the password, and nothing says which was wrong', async () => {
    expect(await store.people.signIn('nuno', password, 'a test')).toBeUndefined()
    await expect(store.people.signIn('nuno', password, 'a test', '000000')).rejects.toThrow(
      'The name or the password is not right; try again.',
    )
    await expect(store.people.signIn('nuno', 'another password', 'a test', codeAt(secret, now))).rejects.toThrow(
      'The name or the password is not right; try again.',
    )
  })
  it('takes each code once, however many send it at once, and none of before', async () => {
    // the one that has confirmed it is used up
    expect(await factor.use(person, codeAt(secret, now))).toBe(false)
    now += 60_000
    const code = codeAt(secret, now)
    const used = await Promise.all(Array.from({ length: 8 }, () => factor.use(person, code)))
    expect(used.filter(Boolean)).toHaveLength(1)
    expect(await factor.use(person, codeAt(secret, now - 30_000))).toBe(false)
    // a clock that is half a minute off is borne, one that is further off is not
    now += 90_000
    expect(await factor.use(person, codeAt(secret, now + 60_000))).toBe(false)
    expect(await factor.use(person, codeAt(secret, now + 30_000))).toBe(true)
    expect(await factor.use(person, codeAt(secret, now))).toBe(false)
  })
  it('takes each recovery code once', async () => {
    const used = await Promise.all(Array.from({ length: 5 }, () => factor.use(person, codes[0]!)))
    expect(used.filter(Boolean)).toHaveLength(1)
    expect(await factor.use(person, codes[1]!.replaceAll('-', ' ').toLowerCase())).toBe(true)
    for (const wrong of ['', '-', codes[0]!, 'AAAA-BBBB-CCCC-DDDD', '12345', '1234567'])
      expect([wrong, await factor.use(person, wrong)]).toEqual([wrong, false])
  })
  it('is kept sealed, for its own person only', async () => {
    const other = await store.people.add(tester, { name: 'Olga', signIn: 'olga', role: 'reader', password })
    const { secret: hers } = await factor.begin({ id: other, signIn: 'olga' })
    expect(() => new Secrets(temporaryFolder()).open(`second factor ${other}`, hers)).toThrow()
    await factor.confirm(other, codeAt(hers, now))
    expect(await factor.use(other, codeAt(secret, now + 30_000))).toBe(false)
    await factor.remove(other)
    expect(await store.people.signIn('olga', password, 'a test')).toMatch(/^[\w-]{43}$/)
  })
})
