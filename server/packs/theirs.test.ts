import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Person, Role } from '../../core/api/people'
import { sourceId } from '../../demo/source'
import { demoData } from '../../tests/support'
import { type Context, ownContext } from '../access/context'
import { type Estante, openEstante } from '../estante'
import type { PackRunRow } from '../store/packRunRows'
import { packInfo, seesPackRun } from '../utils/packs'

/* Whose runs of packs are: their own, and administrators', as far as guards let them now. */

let estante: Estante
let run: PackRunRow
const team = { id: 'quay', name: 'Quay', attributes: { branches: ['NQ'] } }
const person = (name: string, role: Role, teams: Person['teams'] = []): Person => ({ id: name, name, signIn: name, role, teams })
const people: Record<string, Person> = {
  own: person('own', 'author'),
  other: person('other', 'author'),
  chief: person('chief', 'administrator'),
  guardedChief: person('guardedChief', 'administrator', [team]),
}
const as = (name: string): Context => ({ person: name, signedIn: people[name]! })
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
  // they are known to the program as people of the store would be
  const find = estante.store.people.find.bind(estante.store.people)
  estante.store.people.find = async id => people[id] ?? find(id)
  const pack = (await estante.store.packs.list(ownContext)).find(each => each.name === 'Orders to suppliers')!
  const id = (await estante.packs.start(as('own'), pack, { answers: {}, dry: true }))!
  for (;;) {
    run = (await estante.store.packRuns.find(id))!
    if (!['waiting', 'running', 'sending'].includes(run.state)) break
    await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 300))])
  }
})
afterAll(() => estante.close())

describe('a run of a pack', () => {
  it('is seen by whoever ran it and by administrators, and by no other author', async () => {
    expect([run.state, run.sentences, run.personId]).toEqual(['done', null, 'own'])
    const seen = Object.fromEntries(
      await Promise.all(['own', 'other', 'chief'].map(async name => [name, await seesPackRun(as(name), estante, run)] as const)),
    )
    expect(seen).toEqual({ own: true, other: false, chief: true })
  })

  it('is not in the lists of those who do not see it', async () => {
    const pack = await estante.store.packs.find(ownContext, run.packId)
    const runs = async (name: string) => (await packInfo(as(name), estante, pack, 10)).runs.map(each => each.id)
    expect(await runs('own')).toEqual([run.id])
    expect(await runs('other')).toEqual([])
  })

  it('is seen by nobody from whom guards would hide some of it now', async () => {
    expect(await seesPackRun(as('guardedChief'), estante, run)).toBe(true)
    await estante.store.saveGuards(ownContext, sourceId, {
      guards: [{ team: 'quay', table: 'branches', is: 'records', formula: 'code in (person.branches)' }],
      released: [],
    })
    expect(await seesPackRun(as('guardedChief'), estante, run)).toBe(false)
    expect(await seesPackRun(as('chief'), estante, run)).toBe(true)
  })

  it('that was dry is never sent, by no word on any of its letters', async () => {
    const before = (await estante.outbox.list(0, 0)).all
    const letters = await estante.store.deliveries.of(run.id)
    expect(letters.length).toBeGreaterThan(0)
    for (const each of letters) expect(await estante.packs.decideDelivery(as('chief'), each.id, true, 'a@b.example')).toBe(false)
    expect((await estante.outbox.list(0, 0)).all).toBe(before)
  })
})
