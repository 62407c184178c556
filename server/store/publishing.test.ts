import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Person, Role } from '../../core/api/people'
import type { ReportDefinition } from '../../core/definition/report'
import { invoiceRegister } from '../../demo/reports/reports'
import { temporaryFolder, tester } from '../../tests/support'
import type { Context } from '../access/context'
import { Store } from './store'

let store: Store
beforeAll(async () => {
  store = await Store.open({ folder: temporaryFolder() })
})
afterAll(() => store.close())

let number = 0
async function somebody(role: Role, ...teams: string[]): Promise<Context & { signedIn: Person }> {
  const signIn = `person${++number}`
  const id = await store.people.add(tester, { name: `Person ${number}`, signIn, role, password: 'nine grey gulls at noon' })
  for (const team of teams) {
    const { name, attributes, people } = (await store.teams.list(tester)).find(each => each.id === team)!
    await store.teams.change(tester, team, { name, attributes, people: [...people, id] })
  }
  return { person: id, signedIn: (await store.people.find(id))! }
}
const team = (name: string) => store.teams.add(tester, { name: `${name} ${++number}`, attributes: {}, people: [] })
const report = (context: Context, shelf = 'Shelf', name = `Report ${++number}`) =>
  store.create(context, shelf, name, invoiceRegister(), false)
const seen = async (context: Context) => (await store.library(context)).flatMap(shelf => shelf.reports.map(each => each.id))
const everybody = { toAll: true, teams: [], editing: 'all' as const, editors: [] }
const edited = (change: Partial<ReportDefinition>): ReportDefinition => ({ ...invoiceRegister(), ...change })

describe('who runs and who edits', () => {
  it('a report that is published is run by everybody, or by its teams', async () => {
    const [quay, other] = [await team('Quay'), await team('Other')]
    const [author, reader, stranger] = [await somebody('author'), await somebody('reader', quay), await somebody('reader', other)]
    const id = await report(author)
    expect(await seen(reader)).not.toContain(id)
    await store.publishing.publish(author, id)
    for (const context of [reader, stranger]) expect(await seen(context)).toContain(id)
    await store.publishing.setAudience(author, id, { ...everybody, toAll: false, teams: [quay] })
    expect(await seen(reader)).toContain(id)
    expect(await seen(stranger)).not.toContain(id)
    await expect(store.report(stranger, id, 'published')).rejects.toMatchObject({ status: 404 })
    await expect(store.needReport(stranger, id, 'run')).rejects.toMatchObject({ status: 404 })
    // with its last team gone it is its authors’ only, not everybody’s
    await store.teams.remove(tester, quay)
    const again = { ...reader, signedIn: (await store.people.find(reader.signedIn.id))! }
    expect(await seen(again)).not.toContain(id)
    expect(await seen(author)).toContain(id)
  })

  it('an author edits what is theirs or shared with them, and runs the rest as readers do', async () => {
    const finance = await team('Finance')
    const [owner, colleague, other] = [await somebody('author'), await somebody('author', finance), await somebody('author')]
    const id = await report(owner)
    await store.publishing.publish(owner, id)
    await store.save(owner, id, 1, edited({ language: 'pt-PT' }))
    await store.publishing.setAudience(owner, id, { ...everybody, editing: 'teams', editors: [finance] })
    expect((await store.report(colleague, id)).version).toBe(2)
    await expect(store.report(other, id)).rejects.toMatchObject({ status: 403 })
    expect(await store.draft(other, id)).toBeUndefined()
    const listed = (await store.library(other)).flatMap(shelf => shelf.reports).find(each => each.id === id)
    expect(listed).toMatchObject({ version: 1, published: 1, edit: false })
    await store.publishing.setAudience(owner, id, { ...everybody, editing: 'owner' })
    await expect(store.report(colleague, id)).rejects.toMatchObject({ status: 403 })
    expect((await store.report(await somebody('administrator'), id)).version).toBe(2)
  })

  it('nobody takes themselves out', async () => {
    const [mine, theirs] = [await team('Mine'), await team('Theirs')]
    const [owner, author] = [await somebody('author'), await somebody('author', mine)]
    const id = await report(owner)
    await expect(store.publishing.setAudience(author, id, { ...everybody, editing: 'teams', editors: [theirs] })).rejects.toThrow(
      /not be able to edit/,
    )
    await expect(store.publishing.setAudience(author, id, { ...everybody, editing: 'owner' })).rejects.toThrow(/not be able to edit/)
    await store.publishing.setAudience(author, id, { ...everybody, editing: 'teams', editors: [mine] })
    await expect(store.publishing.setAudience(author, id, { ...everybody, toAll: false, teams: ['gone'] })).rejects.toThrow(
      /not here any more/,
    )
  })

  it('a shelf of a team is seen by nobody else', async () => {
    const quay = await team('Quay')
    const [administrator, inside, outside] = [await somebody('administrator'), await somebody('author', quay), await somebody('author')]
    const id = await report(inside, 'Ours')
    await store.publishing.publish(inside, id)
    const shelf = (await store.library(administrator)).find(each => each.name === 'Ours')!
    await expect(store.shelving.changeShelf(inside, shelf.id, { team: quay })).rejects.toMatchObject({ status: 403 })
    await store.shelving.changeShelf(administrator, shelf.id, { team: quay })
    expect(await seen(outside)).not.toContain(id)
    expect((await store.library(outside)).some(each => each.name === 'Ours')).toBe(false)
    await expect(store.create(outside, 'Ours', 'Into it', invoiceRegister(), false)).rejects.toMatchObject({ status: 403 })
    const own = await report(outside)
    await expect(store.shelving.place(outside, own, shelf.id)).rejects.toMatchObject({ status: 403 })
    await store.shelving.place(inside, own, shelf.id)
    // whoever made it finds it again
    expect(await seen(outside)).toContain(own)
    await store.shelving.changeShelf(administrator, shelf.id, { team: '' })
    expect(await seen(outside)).toContain(id)
  })
})

describe('publishing', () => {
  it('tells what has changed, by whom', async () => {
    const author = await somebody('author')
    const id = await report(author)
    expect(await store.publishing.publish(author, id)).toEqual({ published: 1 })
    await store.save(author, id, 1, edited({ language: 'pt-PT' }))
    expect(await store.publishing.changes(author, id)).toEqual(['Its language is “pt-PT” now, and was “en-GB”.'])
    await store.publishing.publish(author, id)
    const [last, first] = await store.publishing.history(author, id)
    expect([first!.version, first!.changes, first!.by]).toEqual([1, ['It is published for the first time.'], author.signedIn.name])
    expect([last!.version, last!.state]).toEqual([2, 'published'])
  })

  it('waits for a second person where the shelf wants one, and the last that was asked for counts', async () => {
    const [administrator, one, two] = [await somebody('administrator'), await somebody('author'), await somebody('author')]
    const id = await report(one, 'Careful')
    const shelf = (await store.library(administrator)).find(each => each.name === 'Careful')!
    await store.shelving.changeShelf(administrator, shelf.id, { release: true })
    expect(await store.publishing.publish(one, id)).toEqual({ waiting: 1 })
    await expect(store.publishing.decide(one, id, true)).rejects.toMatchObject({ status: 403 })
    await store.save(one, id, 1, edited({ language: 'pt-PT' }))
    expect(await store.publishing.publish(one, id)).toEqual({ waiting: 2 })
    expect((await store.publishing.history(one, id)).map(each => each.state)).toEqual(['waiting', 'overtaken'])
    const reader = await somebody('reader')
    expect(await seen(reader)).not.toContain(id)
    // of several who release at once, one does
    const released = await Promise.allSettled([two, administrator, two].map(each => store.publishing.decide(each, id, true)))
    expect(released.filter(each => each.status === 'fulfilled')).toHaveLength(1)
    expect(await seen(reader)).toContain(id)
    expect((await store.report(reader, id, 'published')).version).toBe(2)
    // refused, it stays as it was; taking back one's own is no release
    await store.save(one, id, 2, edited({ language: 'nb-NO' }))
    await store.publishing.publish(one, id)
    await store.publishing.decide(one, id, false)
    expect((await store.report(reader, id, 'published')).version).toBe(2)
    await expect(store.publishing.decide(two, id, true)).rejects.toMatchObject({ status: 409 })
    // and no way around it
    const other = await report(one, 'Free')
    const free = (await store.library(administrator)).find(each => each.reports.some(own => own.id === other))!
    await expect(store.shelving.place(one, id, free.id)).rejects.toMatchObject({ status: 403 })
    await store.shelving.place(administrator, id, free.id)
  })

  it('copies keep who may see them, and are whose who made them', async () => {
    const quay = await team('Quay')
    const [owner, inside] = [await somebody('author'), await somebody('author', quay)]
    const id = await report(owner)
    await store.publishing.setAudience(owner, id, { toAll: false, teams: [quay], editing: 'teams', editors: [quay] })
    const made = await store.shelving.copy(inside, id)
    expect(await store.publishing.audience(inside, made.id)).toEqual({
      toAll: false,
      teams: [quay],
      editing: 'teams',
      editors: [quay],
      owner: inside.signedIn.name,
    })
    expect(await seen(await somebody('author'))).not.toContain(made.id)
  })
})

describe('what somebody keeps', () => {
  it('answers are their own, and rows that are pinned are told apart by what was seen', async () => {
    const [one, two] = [await somebody('author'), await somebody('author')]
    const id = await report(one)
    await store.beside.saveAnswers(one, id, 'Mine', { customer: 'C-0001' })
    await store.beside.saveAnswers(two, id, 'Mine', { customer: 'C-0002' })
    expect(await store.beside.savedAnswers(one, id)).toEqual([{ name: 'Mine', answers: { customer: 'C-0001' } }])
    await store.beside.saveAnswers(one, id, 'Mine', undefined)
    expect(await store.beside.savedAnswers(two, id)).toHaveLength(1)
    await store.beside.pin(one, id, {}, new Uint8Array([1]))
    await store.beside.pin(two, id, {}, new Uint8Array([2]), 'guarded')
    expect([...(await store.beside.pinned(one, id))!.rows]).toEqual([1])
    expect([...(await store.beside.pinned(two, id, 'guarded'))!.rows]).toEqual([2])
    expect(await store.beside.pinned(two, id, 'guarded otherwise')).toBeUndefined()
  })
})

describe('teams', () => {
  it('are refused what cannot be', async () => {
    const said = { name: 'Harbour', attributes: {}, people: [] }
    const id = await store.teams.add(tester, said)
    await expect(store.teams.add(tester, said)).rejects.toMatchObject({ status: 409 })
    await expect(store.teams.add(tester, { ...said, name: ' ' })).rejects.toMatchObject({ status: 422 })
    await expect(store.teams.add(tester, { ...said, name: 'A', attributes: { 'two words': [] } })).rejects.toThrow(/one word/)
    await expect(store.teams.add(tester, { ...said, name: 'A', attributes: { sign_in: ['boss'] } })).rejects.toThrow(/signs in with/)
    await expect(store.teams.add(tester, { ...said, name: 'A', people: ['nobody'] })).rejects.toMatchObject({ status: 409 })
    expect((await store.teams.list(tester)).some(each => each.name === 'A')).toBe(false)
    await store.teams.change(tester, id, { ...said, attributes: { codes: [' NQ ', 'NQ', ''] } })
    expect((await store.teams.find(tester, id))!.attributes).toEqual({ codes: ['NQ'] })
    await store.teams.remove(tester, id)
    await expect(store.teams.remove(tester, id)).rejects.toMatchObject({ status: 404 })
    await expect(store.teams.change(tester, id, said)).rejects.toMatchObject({ status: 404 })
  })
  it('lose whoever is removed, and a role or a team that is taken away holds at once', async () => {
    const quay = await team('Quay')
    const person = await somebody('author', quay)
    const token = (await store.people.signIn(person.signedIn.signIn, 'nine grey gulls at noon', 'a test'))!
    expect((await store.people.sessions.personOf(token))!.teams.map(each => each.id)).toEqual([quay])
    const said = (await store.teams.list(tester)).find(each => each.id === quay)!
    await store.teams.change(tester, quay, { ...said, people: [] })
    expect((await store.people.sessions.personOf(token))!.teams).toEqual([])
    await store.people.change(tester, person.person, { role: 'reader' })
    expect((await store.people.sessions.personOf(token))!.role).toBe('reader')
    await store.people.change(tester, person.person, { password: 'four boats in the fog' })
    expect(await store.people.sessions.personOf(token)).toBeUndefined()
  })
})
