import { ownContext } from '../../access/context'
import { mkdirSync, readdirSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listOfTable } from '../../../core/templates/draft'
import { valueAt } from '../../../core/value/columns'
import { temporaryFolder, tester } from '../../../tests/support'
import { type Estante, openEstante } from '../../estante'
import { editSource, keptConnection } from '../editSource'
import { filesRecord } from './addFiles'
import { filesIn, lookAgain } from './watch'

let app: Estante
const data = temporaryFolder()
const given = join(temporaryFolder(), 'given')
const file = (name: string, text: string) => {
  mkdirSync(given, { recursive: true })
  writeFileSync(join(given, name), text)
  return { path: join(given, name), name }
}
const open = async () => {
  process.env.ESTANTE_DEMO = 'off'
  app = await openEstante({ folder: data, watch: true })
}
beforeAll(open, 120_000)
afterAll(async () => {
  delete process.env.ESTANTE_DEMO
  delete process.env.ESTANTE_FOLDERS
  await app.close()
})

/** Rows of a table as text, cells parted by |. */
const rows = (id: string, table: string) =>
  app.sources.reading(tester, id, async snapshot => {
    const { catalog } = await app.sources.catalog(ownContext, id)
    const { columns } = catalog.tables.find(each => each.name === table)!
    const list = columns.map(each => `"${each.name}"::text`).join(', ')
    const text = `select concat_ws('|', ${list}) as "line" from "data"."${table}" order by 1`
    const found = await snapshot.query({ text, values: [], columns: [{ path: 'line', type: 'text' }] })
    return Array.from({ length: found.count }, (_, row) => String(valueAt(found.columns[0]!, row)))
  })
const tables = async (id: string) => (await app.sources.catalog(ownContext, id)).catalog.tables.map(each => each.name).sort()

describe('files that are taken in again', () => {
  let id: string
  it('take the place of the tables that they were, and all others stay', async () => {
    const orders = { ...file('orders.csv', 'No;Day;Total\n1;01.02.2026;1,50\n2;13.02.2026;2\n'), forms: { no: { type: 'text' as const } } }
    ;({ id } = await app.addFiles(tester, 'Books', [orders, file('customers.csv', 'Code,Name\nA,Ana\nB,Bo\n')]))
    const before = await rows(id, 'customers')
    expect(await rows(id, 'orders')).toEqual(['1|2026-02-01|1.50', '2|2026-02-13|2.00'])
    await app.takeAgain(tester, id, [file('orders.csv', 'No;Day;Total;Note\n3;14.02.2026;7;late\n'), file('places.csv', 'Place\nX\n')])
    expect(await tables(id)).toEqual(['customers', 'orders', 'places'])
    expect(await rows(id, 'orders')).toEqual(['3|2026-02-14|7|late'])
    expect(await rows(id, 'customers')).toEqual(before)
    const { generations, generation } = await app.copies.generations(tester, id)
    expect([generation, generations.map(each => each.rows)]).toEqual([2, [4, 4]])
    await app.copies.use(tester, id, 1)
    expect(await rows(id, 'orders')).toEqual(['1|2026-02-01|1.50', '2|2026-02-13|2.00'])
    expect(await tables(id)).toEqual(['customers', 'orders'])
    await app.copies.use(tester, id, 2)
  }, 120_000)

  it('are not in silence where a report would break, nor where one of them cannot be read', async () => {
    const { catalog } = await app.sources.catalog(ownContext, id)
    const report = await app.store.create(tester, 'Trial', 'Customers', listOfTable(catalog, 'customers', id, 'Customers'), false)
    const changed = [file('customers.csv', 'Code,Town\nA,Porto\n')]
    await expect(app.takeAgain(tester, id, changed)).rejects.toThrow(
      /^Nothing was taken in, because “Customers” would break \(.*name.*\); change what reports read, or take them in all the same\.$/,
    )
    expect(await rows(id, 'customers')).toEqual(['A|Ana', 'B|Bo'])
    await expect(app.takeAgain(tester, id, [file('orders.csv', 'a,b\n1,2\n'), file('broken.csv', 'a,b\n1,"2\n')])).rejects.toThrow(
      'broken.csv',
    )
    expect(await rows(id, 'orders')).toEqual(['3|2026-02-14|7|late'])
    expect((await app.copies.generations(tester, id)).failed!.why).toContain('broken.csv')
    await app.takeAgain(tester, id, changed, { evenSo: true })
    expect(await rows(id, 'customers')).toEqual(['A|Porto'])
    expect((await app.copies.generations(tester, id)).failed).toBeUndefined()
    await app.store.remove(tester, report)
  }, 120_000)

  it('are kept three generations of, and no folder more', async () => {
    for (const each of ['one', 'two']) await app.takeAgain(tester, id, [file('places.csv', `Place\n${each}\n`)])
    expect(readdirSync(join(data, 'sources', id)).sort()).toEqual(['g3', 'g4', 'g5'])
    await app.close()
    await open()
    expect(await rows(id, 'places')).toEqual(['two'])
  }, 120_000)
})

describe('a folder that is watched', () => {
  const folder = join(data, 'incoming', 'daily')
  let id: string
  const settled = async (until: () => Promise<boolean>) => {
    for (let left = 300; !(await until()); left--) {
      if (!left) throw new Error('It never came.')
      await new Promise(resolve => setTimeout(resolve, 200))
    }
  }
  it('is taken in when its files change, as they were said to be, also while nobody watched', async () => {
    mkdirSync(folder, { recursive: true })
    writeFileSync(join(folder, 'stock.csv'), 'Item,Count\n007,5\n')
    writeFileSync(join(folder, 'notes.md'), 'no table')
    const files = [{ path: join(folder, 'stock.csv'), name: 'stock.csv', forms: { count: { type: 'text' as const } } }]
    ;({ id } = await app.addFiles(tester, 'Daily', files))
    await editSource(tester, app.keeping, app.within, id, { name: 'Daily stock', watch: folder })
    await app.watches.renew()
    expect(app.sources.get(id).name).toBe('Daily stock')
    writeFileSync(join(folder, 'stock.csv'), 'Item,Count\n007,6\n008,1\n')
    await settled(async () => (await rows(id, 'stock')).length === 2)
    expect(await rows(id, 'stock')).toEqual(['007|6', '008|1'])
    const { catalog } = await app.sources.catalog(ownContext, id)
    expect(catalog.tables[0]!.columns.map(each => each.type)).toEqual(['text', 'text'])
    await app.close()
    writeFileSync(join(folder, 'stock.csv'), 'Item,Count\n009,4\n')
    writeFileSync(join(folder, 'places.csv'), 'Place\nQuay\n')
    await open()
    await settled(async () => (await tables(id)).length === 2)
    expect(await rows(id, 'stock')).toEqual(['009|4'])
    // a file that is gone leaves its table
    rmSync(join(folder, 'places.csv'))
    expect(await lookAgain(tester, app.keeping, id)).toEqual([])
    expect(await tables(id)).toEqual(['places', 'stock'])
  }, 180_000)

  it('that holds what cannot be read leaves all as it is and says why', async () => {
    writeFileSync(join(folder, 'stock.csv'), 'Item,Count\n009,"4\n')
    await settled(async () => !!(await app.copies.generations(tester, id)).failed)
    expect((await app.copies.generations(tester, id)).failed!.why).toContain('stock.csv')
    expect(await rows(id, 'stock')).toEqual(['009|4'])
    writeFileSync(join(folder, 'stock.csv'), 'Item,Count\n010,1\n')
    await settled(async () => (await rows(id, 'stock'))[0] === '010|1')
    expect((await app.copies.generations(tester, id)).failed).toBeUndefined()
  }, 120_000)

  it('is told apart by size and time', () => {
    utimesSync(join(folder, 'stock.csv'), 1, 1)
    expect([...filesIn(folder)]).toEqual([['stock.csv', '17 1000']])
  })

  it('must be beneath one that may be', async () => {
    const other = join(temporaryFolder(), 'elsewhere')
    mkdirSync(other)
    symlinkSync(other, join(data, 'incoming', 'way out'))
    for (const watch of [other, '/etc', join(data, 'incoming', 'way out'), `${data}/incoming/../..`])
      await expect(editSource(tester, app.keeping, app.within, id, { name: 'Daily stock', watch })).rejects.toThrow(/may not be watched/)
    const gone = join(data, 'incoming', 'gone')
    await expect(editSource(tester, app.keeping, app.within, id, { name: 'Daily stock', watch: gone })).rejects.toThrow(
      'There is no folder',
    )
    process.env.ESTANTE_FOLDERS = other
    await editSource(tester, app.keeping, app.within, id, { name: 'Daily stock', watch: other })
    expect(await keptConnection(tester, app.keeping, id)).toMatchObject({ kind: 'files', name: 'Daily stock', watch: other })
    await editSource(tester, app.keeping, app.within, id, { name: 'Daily stock', watch: '' })
    expect((await filesRecord(tester, app.keeping, id)).record.watch).toBeUndefined()
    await expect(editSource(tester, app.keeping, app.within, id, { name: 'books' })).rejects.toThrow('There is a source “books” already')
  })
})
