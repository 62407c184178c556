import { mkdtempSync } from 'node:fs'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import fc from 'fast-check'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { temporaryFolder, tester } from '../../tests/support'
import { Store } from '../store/store'
import type { Context } from './context'

const open: Store[] = []
let store: Store
beforeEach(async () => {
  store = await Store.open({ folder: mkdtempSync(join(temporaryFolder(), 'store-')) })
  open.push(store)
})
afterAll(async () => {
  for (const each of open) await each.close()
})
const marta: Context = { person: 'p1', signedIn: { id: 'p1', name: 'Marta Brito', signIn: 'marta', role: 'author', teams: [] } }
/** Whoever can write to the store by hand. */
const byHand = (text: string) => store.audit['database']().execute(sql.raw(text))

describe('the log', () => {
  it('holds what was done by whom in its order, and is found by kind, words and time', async () => {
    await store.audit.write(marta, 'report published', { report: 'Sales invoice', version: 3 }, '10.1.2.3')
    await store.audit.write(tester, 'report run', { report: 'Customer ageing', rows: 812 })
    await store.audit.entry('sign-in refused', { name: 'nobody' }, { id: '', name: '', address: '10.9.9.9' })
    const all = await store.audit.search(tester, {}, 10)
    expect(all.map(each => [each.number, each.kind])).toEqual([
      [3, 'sign-in refused'],
      [2, 'report run'],
      [1, 'report published'],
    ])
    expect(all[2]).toMatchObject({ about: { report: 'Sales invoice', version: 3 }, personal: { name: 'Marta Brito', address: '10.1.2.3' } })
    const found = async (search: Parameters<Store['audit']['search']>[1]) =>
      (await store.audit.search(tester, search, 10)).map(each => each.number)
    expect(await found({ kind: 'report run' })).toEqual([2])
    expect(await found({ words: 'marta INVOICE' })).toEqual([1])
    expect(await found({ words: '10.9' })).toEqual([3])
    expect(await found({ from: new Date(Date.now() + 60_000) })).toEqual([])
    expect((await store.audit.search(tester, {}, 1, 3)).map(each => each.number)).toEqual([2])
  })

  it('is one chain whoever writes at once', async () => {
    await Promise.all(Array.from({ length: 40 }, (_, at) => store.audit.write(tester, 'report run', { at })))
    expect(await store.audit.check(tester)).toEqual({ whole: true, entries: 40 })
  })

  it('tells whatever was changed, taken out or put in by hand', async () => {
    const changes = [
      'update audit set about = \'{"report":"Another"}\' where number = 4',
      "update audit set at = at + interval '1 second' where number = 4",
      "update audit set kind = 'signed in' where number = 4",
      "update audit set personal = jsonb_set(personal, '{name}', '\"Somebody else\"') where number = 4",
      'delete from audit where number = 4',
      'update audit set number = 20 where number = 4',
    ]
    for (let at = 1; at <= 6; at++) await store.audit.write(marta, 'report run', { report: `Report ${at}` })
    for (const change of changes) {
      await byHand('begin')
      await byHand(change)
      const found = await store.audit.check(tester)
      expect([change, found.whole]).toEqual([change, false])
      expect(found.whole ? '' : found.sentence).toMatch(/^(Entry|What is personal in entry) \d+ /)
      await byHand('rollback')
    }
    expect(await store.audit.check(tester)).toEqual({ whole: true, entries: 6 })
  })

  it('whatever was said is found again, and the chain is whole', async () => {
    let written = 0
    await fc.assert(
      fc.asyncProperty(
        fc.dictionary(
          fc.string({ maxLength: 8 }).filter(name => !name.includes('\u0000') && name !== '__proto__'),
          fc.jsonValue({ maxDepth: 2, noUnicodeString: true }),
        ),
        async about => {
          await store.audit.write(tester, 'source changed', about)
          written++
          const [last] = await store.audit.search(tester, {}, 1)
          expect(last!.about).toEqual(JSON.parse(JSON.stringify(about)))
        },
      ),
      { numRuns: 30 },
    )
    expect(await store.audit.check(tester)).toEqual({ whole: true, entries: written })
  })

  it('what is personal goes without breaking the chain, and that it went is written down', async () => {
    await store.audit.write(marta, 'signed in', {})
    await store.audit.write(tester, 'report run', { report: 'Journal' })
    await store.audit.write(marta, 'report run', { report: 'Journal' })
    expect(await store.audit.takeOut(tester, 'p1')).toBe(2)
    const entries = await store.audit.search(tester, {}, 10)
    expect(JSON.stringify(entries)).not.toContain('Marta')
    expect(entries.map(each => [each.kind, !!each.personal])).toEqual([
      ['personal taken out', true],
      ['report run', false],
      ['report run', true],
      ['signed in', false],
    ])
    expect(await store.audit.check(tester)).toEqual({ whole: true, entries: 4 })
    await expect(store.audit.takeOut(tester, 'p1')).rejects.toMatchObject({ status: 404 })
  })
})
