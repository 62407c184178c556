import { mkdtempSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { temporaryFolder, tester } from '../../tests/support'
import { Store } from '../store/store'
import { isCommonPassword } from './commonPasswords'
import { hashedPassword, isPassword, passwordFault } from './passwords'
import { idleTime, longestTime, Sessions } from './sessions'
import { Tokens } from './tokens'

let store: Store
beforeAll(async () => {
  store = await Store.open({ folder: mkdtempSync(join(temporaryFolder(), 'store-')) })
})
afterAll(() => store.close())
const password = 'nine grey gulls at noon'
let number = 0
/** A person of a test's own. */
/** Signs in somebody without a second factor. */
const enter = async (name: string, password: string, about: string): Promise<string> => (await store.people.signIn(name, password, about))!
async function somebody(role: 'reader' | 'author' | 'administrator' = 'reader') {
  const signIn = `person${++number}`
  return { id: await store.people.add(tester, { name: `Nuno ${number}`, signIn, role, password }), signIn }
}

describe('an account', () => {
  it('has the language that its person said, apart from all others', async () => {
    const [one, other] = [await somebody(), await somebody()]
    expect(await store.people.account(one.id)).toEqual({ password: true, second: false })
    await store.people.speak((await store.people.find(one.id))!, 'pt')
    expect(await store.people.account(one.id)).toEqual({ password: true, second: false, language: 'pt' })
    expect(await store.people.account(other.id)).toEqual({ password: true, second: false })
    await store.people.speak((await store.people.find(one.id))!, 'en')
    expect((await store.people.account(one.id)).language).toBe('en')
    // nobody is nobody
    expect(await store.people.account('nobody')).toEqual({ password: false, second: false })
  })
})

describe('passwords', () => {
  it('are kept so that the same one has another hash each time, and only it is right', async () => {
    const [one, other] = [await hashedPassword(password), await hashedPassword(password)]
    expect(one).not.toBe(other)
    expect(one).not.toContain(password)
    expect(await isPassword(password, one)).toBe(true)
    for (const wrong of ['', `${password} `, password.toUpperCase(), one]) expect(await isPassword(wrong, one)).toBe(false)
    expect(await isPassword('anything', undefined)).toBe(false)
    // composed and decomposed letters are the same
    expect(await isPassword('ma\u0303e do farol velho', await hashedPassword('m\u00e3e do farol velho'))).toBe(true)
  })
  it.each([
    ['short', 'The password has 5 characters; take at least 12.'],
    ['ababababababab', 'The password says the same few characters again and again; take another.'],
    ['marta-is-my-name', 'The password holds the name of who signs in with it; take another.'],
    ['q1w2e3r4t5y6', 'The password is one of those that are tried first; take another.'],
    ['x'.repeat(60) + 'abcdef'.repeat(40), 'The password is longer than 200 characters; take a shorter one.'],
  ])('%s cannot be taken', (text, sentence) => {
    expect(passwordFault(text, ['marta'], each => each === 'q1w2e3r4t5y6')).toBe(sentence)
  })
})

it.each([
  ['unbelievable', true],
  ['password12345', true],
  ['!!football!!2026', true],
  ['dragondragon', true],
  ['nine grey gulls at noon', false],
  ['kelp, rope and rain', false],
])('“%s” is tried first: %s', (text, common) => {
  expect(isCommonPassword(text)).toBe(common)
})

describe('people', () => {
  it('sign in by name and password; what was wrong is never told', async () => {
    const { id, signIn } = await somebody('author')
    const token = await enter(` ${signIn.toUpperCase()} `, password, 'a test')
    expect(await store.people.sessions.personOf(token)).toEqual({ id, name: `Nuno ${number}`, signIn, role: 'author', teams: [] })
    const sentences = await Promise.all(
      [
        [signIn, 'wrong wrong wrong'],
        ['nobody at all', password],
      ].map(([name, own]) => enter(name!, own!, '').catch((error: Error) => error.message)),
    )
    expect(new Set(sentences).size).toBe(1)
    expect(await store.people.sessions.personOf(`${token.slice(0, -1)}${token.endsWith('A') ? 'B' : 'A'}`)).toBeUndefined()
    expect(await store.people.sessions.personOf('')).toBeUndefined()
  })

  it('who is removed is signed out everywhere, cannot sign in, and leaves the name free', async () => {
    await somebody('administrator')
    const { id, signIn } = await somebody()
    const token = await enter(signIn, password, '')
    await store.people.remove(tester, id)
    expect(await store.people.sessions.personOf(token)).toBeUndefined()
    await expect(enter(signIn, password, '')).rejects.toMatchObject({ status: 401 })
    await expect(store.people.remove(tester, id)).rejects.toMatchObject({ status: 404 })
    expect(await store.people.add(tester, { name: 'Another', signIn, role: 'reader', password })).not.toBe(id)
    await expect(store.people.add(tester, { name: 'Third', signIn, role: 'reader', password })).rejects.toMatchObject({ status: 409 })
  })

  it('a role that is changed holds at once', async () => {
    const { id, signIn } = await somebody('reader')
    const token = await enter(signIn, password, '')
    await store.people.change(tester, id, { role: 'author' })
    expect((await store.people.sessions.personOf(token))!.role).toBe('author')
  })

  it('two administrators who remove one another at once: one of them stays', async () => {
    const own = await Store.open({ folder: mkdtempSync(join(temporaryFolder(), 'store-')) })
    const ids = [
      await own.people.addFirst(tester, { name: 'One', signIn: 'first', password }),
      await own.people.add(tester, { name: 'Two', signIn: 'second', role: 'administrator', password }),
    ]
    await expect(own.people.addFirst(tester, { name: 'Three', signIn: 'third', password })).rejects.toMatchObject({ status: 409 })
    const outcomes = await Promise.allSettled(ids.map(id => own.people.remove(tester, id)))
    expect(outcomes.map(each => each.status).sort()).toEqual(['fulfilled', 'rejected'])
    expect((await own.people.list(tester)).map(each => each.role)).toEqual(['administrator'])
    const [left] = await own.people.list(tester)
    await expect(own.people.change(tester, left!.id, { role: 'reader' })).rejects.toMatchObject({ status: 409 })
    await own.close()
  })

  it('a new password ends every other session, and the one before is not right any more', async () => {
    const { id, signIn } = await somebody()
    const [here, there] = [await enter(signIn, password, 'here'), await enter(signIn, password, 'there')]
    const person = (await store.people.sessions.personOf(here))!
    expect((await store.people.sessions.list(id, here)).map(each => [each.about, each.own]).sort()).toEqual([
      ['here', true],
      ['there', false],
    ])
    await expect(store.people.changePassword(person, 'not the old one', 'ten brown boats home', here)).rejects.toMatchObject({
      status: 401,
    })
    await store.people.changePassword(person, password, 'ten brown boats home', here)
    expect(await store.people.sessions.personOf(here)).toBeDefined()
    expect(await store.people.sessions.personOf(there)).toBeUndefined()
    await expect(enter(signIn, password, '')).rejects.toMatchObject({ status: 401 })
  })
})

describe('sessions', () => {
  it('end by themselves after a time without use, and at last however they are used', async () => {
    let now = Date.parse('2026-10-01T08:00:00Z')
    const own = await Store.open({ folder: mkdtempSync(join(temporaryFolder(), 'store-')) })
    const id = await own.people.addFirst(tester, { name: 'One', signIn: 'first', password })
    const sessions = new Sessions(own.people.sessions['database'], own.people.sessions['saved'], () => now)
    const idle = await sessions.begin(id, '')
    now += idleTime - 1000
    expect(await sessions.personOf(idle)).toBeDefined()
    now += idleTime - 1000
    expect(await sessions.personOf(idle), 'its use counted').toBeDefined()
    now += idleTime + 1000
    expect(await sessions.personOf(idle)).toBeUndefined()
    const long = await sessions.begin(id, '')
    const began = now
    for (; now < began + longestTime - idleTime; now += idleTime / 2) expect(await sessions.personOf(long)).toBeDefined()
    now = began + longestTime + 1
    expect(await sessions.personOf(long)).toBeUndefined()
    expect(await sessions.list(id, long)).toEqual([])
    await own.close()
  })
})

describe('tokens of other programs', () => {
  const day = (from: number) => new Date(Date.now() + from * 86_400_000).toISOString().slice(0, 10)
  it('ask in the name of their person, and may no more than either of them', async () => {
    const { id, signIn } = await somebody('author')
    const person = (await store.people.sessions.personOf(await enter(signIn, password, '')))!
    const reading = await store.people.tokens.add(person, { name: 'Nightly', scope: 'reader', until: day(10) })
    const building = await store.people.tokens.add(person, { name: 'Builds', scope: 'author', until: day(10) })
    expect((await store.people.tokens.personOf(reading.token))!).toMatchObject({ id, role: 'reader' })
    expect((await store.people.tokens.personOf(building.token))!.role).toBe('author')
    await store.people.change(tester, id, { role: 'reader' })
    expect((await store.people.tokens.personOf(building.token))!.role).toBe('reader')
    expect((await store.people.tokens.list(id)).map(each => [each.name, each.scope, !!each.usedAt])).toEqual([
      ['Nightly', 'reader', true],
      ['Builds', 'author', true],
    ])
    expect(JSON.stringify(await store.people.tokens.list(id))).not.toContain(reading.token)
    expect(await store.people.tokens.remove('somebody else', reading.id)).toBe(false)
    expect(await store.people.tokens.remove(id, reading.id)).toBe(true)
    expect(await store.people.tokens.personOf(reading.token)).toBeUndefined()
    // a session is no token, and a token no session
    expect(await store.people.sessions.personOf(building.token)).toBeUndefined()
    await store.people.remove(tester, id)
    expect(await store.people.tokens.personOf(building.token)).toBeUndefined()
  })

  it('are taken up to their last day, and refused where they would be for longer or do more', async () => {
    const { signIn } = await somebody('reader')
    const person = (await store.people.sessions.personOf(await enter(signIn, password, '')))!
    let now = Date.parse('2026-11-30T23:59:00Z')
    const tokens = new Tokens(store.people.sessions['database'], store.people.sessions['saved'], () => now)
    const { token } = await tokens.add(person, { name: 'Short', scope: 'reader', until: '2026-12-01' })
    now = Date.parse('2026-12-01T23:59:59Z')
    expect(await tokens.personOf(token)).toBeDefined()
    now = Date.parse('2026-12-02T00:00:00Z')
    expect(await tokens.personOf(token)).toBeUndefined()
    for (const [scope, until] of [
      ['author', '2026-12-20'],
      ['reader', '2026-12-01'],
      ['reader', '2028-01-01'],
      ['reader', 'tomorrow'],
    ] as const)
      await expect(tokens.add(person, { name: 'Other', scope, until })).rejects.toMatchObject({ status: 422 })
    await expect(tokens.add(person, { name: ' ', scope: 'reader', until: '2026-12-20' })).rejects.toMatchObject({ status: 422 })
  })
})
