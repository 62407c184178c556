import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ReportDefinition } from '../../core/definition/report'
import { listOfTable } from '../../core/templates/draft'
import { temporaryFolder, tester } from '../../tests/support'
import { findReports } from './findReports'
import { daysKept } from './shelving'
import { Store } from './store'

const text = (name: string) => ({ name, type: 'text' as const, databaseType: 'text', required: false })
const catalog = {
  tables: [{ schema: '', name: 'mooring_fees', columns: [text('berth'), text('vessel')], primaryKey: ['berth'], rowEstimate: 0 }],
  foreignKeys: [],
}
const definition = (title: string): ReportDefinition => listOfTable(catalog, 'mooring_fees', 'port', title)

let store: Store
beforeAll(async () => {
  store = await Store.open({ folder: join(temporaryFolder(), 'store') })
})
afterAll(() => store.close())

const shelves = async () => (await store.library(tester)).map(shelf => [shelf.name, shelf.reports.map(each => each.name)])
const make = (shelf: string, name: string, title = name) => store.create(tester, shelf, name, definition(title), true)

describe('the library', () => {
  it('copies a report beside itself with its pinned rows and kept answers, under a name of its own', async () => {
    const id = await make('Port', 'Fees')
    await make('Port', 'Berths')
    await store.beside.pin(tester, id, { day: '2026-01-01' }, Uint8Array.of(1, 2, 3))
    await store.beside.saveAnswers(tester, id, 'usual', { day: '2026-02-02' })
    const first = await store.shelving.copy(tester, id)
    const second = await store.shelving.copy(tester, id)
    expect([first.name, second.name]).toEqual(['Fees copy', 'Fees copy 2'])
    expect(await shelves()).toEqual([['Port', ['Fees', 'Fees copy 2', 'Fees copy', 'Berths']]])
    const [own, made] = [await store.report(tester, id), await store.report(tester, first.id)]
    expect(made.definition).toEqual(own.definition)
    expect(made.published).toBeNull()
    expect(await store.beside.savedAnswers(tester, first.id)).toEqual(await store.beside.savedAnswers(tester, id))
    expect((await store.beside.pinned(tester, first.id))?.rows).toEqual((await store.beside.pinned(tester, id))?.rows)
    for (const each of [first, second]) await store.remove(tester, each.id)
  })

  it('renames, refuses a name that another has, moves to a place of another shelf', async () => {
    const { id: fees } = await store.report(tester, 'Fees')
    await store.shelving.rename(tester, fees, 'Mooring fees')
    await expect(store.shelving.rename(tester, fees, 'Berths')).rejects.toThrow('Another report is called “Berths” already')
    const { id: shelf } = await store.shelving.addShelf(tester, 'Office')
    await expect(store.shelving.addShelf(tester, 'Office')).rejects.toThrow('There is a shelf “Office” already')
    const letters = await make('Office', 'Letters')
    await store.shelving.place(tester, fees, shelf, letters)
    expect(await shelves()).toEqual([
      ['Port', ['Berths']],
      ['Office', ['Mooring fees', 'Letters']],
    ])
    await store.shelving.place(tester, fees, shelf)
    expect((await shelves())[1]).toEqual(['Office', ['Letters', 'Mooring fees']])
    await expect(store.shelving.place(tester, fees, 'nowhere')).rejects.toThrow('This shelf is not in the library')
  })

  it('orders and renames shelves; takes only empty ones away', async () => {
    const ids = Object.fromEntries((await store.library(tester)).map(shelf => [shelf.name, shelf.id]))
    await store.shelving.changeShelf(tester, ids.Office!, { move: -1 })
    expect((await shelves()).map(([name]) => name)).toEqual(['Office', 'Port'])
    await store.shelving.changeShelf(tester, ids.Office!, { name: 'Harbour office', move: 9 })
    expect((await shelves()).map(([name]) => name)).toEqual(['Port', 'Harbour office'])
    await expect(store.shelving.changeShelf(tester, ids.Port!, { name: 'Harbour office' })).rejects.toThrow('There is a shelf')
    await expect(store.shelving.removeShelf(tester, ids.Port!)).rejects.toThrow('Reports stand on this shelf')
    const { id } = await store.shelving.addShelf(tester, 'Empty')
    await store.shelving.removeShelf(tester, id)
    expect((await shelves()).map(([name]) => name)).toEqual(['Port', 'Harbour office'])
  })

  it('puts a report away and brings it back, under another name where its own was taken; for good after its days', async () => {
    const id = await make('Port', 'Passing')
    await store.shelving.putAway(tester, id)
    expect((await shelves())[0]).toEqual(['Port', ['Berths']])
    await expect(store.report(tester, id)).rejects.toThrow('There is no report')
    await expect(store.report(tester, 'Passing')).rejects.toThrow('There is no report')
    await expect(store.save(tester, id, 1, definition('x'))).rejects.toThrow('not in the library any more')
    const other = await make('Port', 'Passing')
    expect(await store.shelving.restore(tester, id)).toEqual({ name: 'Passing 2' })
    expect((await store.report(tester, id)).name).toBe('Passing 2')
    await expect(store.shelving.restore(tester, id)).rejects.toThrow('not in the library')
    await store.shelving.putAway(tester, id)
    await store.shelving.sweep(Date.now() + (daysKept - 1) * 86_400_000)
    await store.shelving.restore(tester, id)
    await store.shelving.putAway(tester, id)
    await store.shelving.sweep(Date.now() + (daysKept + 1) * 86_400_000)
    await expect(store.shelving.restore(tester, id)).rejects.toThrow('not in the library')
    await store.remove(tester, other)
  })

  it('finds reports by name, by table and by a text on their pages, whatever case and accents', async () => {
    const id = await make('Port', 'Tide list', 'Marés do Cais')
    const hits = async (search: string) =>
      (await findReports(tester, store, search)).map(({ id: found, why }) => `${found === id ? 'tide' : 'other'} ${why}`)
    expect(await hits('tide')).toEqual(['tide name'])
    expect(await hits('MARES cais')).toEqual(['tide text'])
    expect((await hits('mooring fees')).filter(each => each.startsWith('tide'))).toEqual(['tide table'])
    expect((await hits('mooring fees'))[0]).toBe('other name')
    expect(await hits('   ')).toEqual([])
    expect(await hits('no such thing')).toEqual([])
  })
})
