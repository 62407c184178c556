import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { filesOf, libraryOf } from '../../core/plain/folder'
import type { TextFiles } from '../../core/plain/text'
import { setText } from '../../core/definition/edits/edits'
import { demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { exportLibrary, libraryAt } from './exporting'
import { importLibrary } from './importing'

let one: Estante
let other: Estante
beforeAll(async () => {
  one = await openEstante({ folder: demoData() })
  other = await openEstante({ folder: demoData() })
  // the demo's own reports come with it
  for (const { id } of await other.store.packs.list(tester)) await other.store.packs.remove(tester, id)
  for (const id of (await namesOf(other)).values()) await other.store.remove(tester, id)
})
afterAll(async () => {
  await one.close()
  await other.close()
})
const namesOf = async (app: Estante) =>
  new Map((await app.store.library(tester)).flatMap(shelf => shelf.reports.map(each => [each.name, each.id] as const)))
const texts = (files: TextFiles) => Object.fromEntries([...files].map(([path, bytes]) => [path, Buffer.from(bytes).toString('latin1')]))
const text = (files: TextFiles, path: string) => Buffer.from(files.get(path)!).toString('utf8')

describe('a library as a folder of texts', () => {
  it('is taken in by an empty one, and comes out the same byte for byte', async () => {
    const files = await exportLibrary(tester, one)
    const done = await importLibrary(tester, other, files)
    expect([done.changed, done.left]).toEqual([[], []])
    expect(done.created).toHaveLength((await namesOf(one)).size + (await one.store.packs.list(tester)).length)
    expect(texts(await exportLibrary(tester, other))).toEqual(texts(files))
    // once more changes nothing
    const again = await importLibrary(tester, other, files)
    expect([again.created, again.changed, again.published]).toEqual([[], [], []])
    expect(texts(await exportLibrary(tester, other))).toEqual(texts(files))
  })

  it('brings shelves with it: empty ones, their order, the reports on them, and where a second person releases', async () => {
    const before = texts(await exportLibrary(tester, one))
    const shelf = async (app: Estante, name: string) => (await app.store.library(tester)).find(each => each.name === name)!
    await one.store.shelving.addShelf(tester, 'For the auditor')
    const sales = (await one.store.library(tester))[0]!
    await one.store.shelving.changeShelf(tester, sales.id, { release: true, move: 1 })
    await one.store.shelving.place(tester, sales.reports[1]!.id, (await shelf(one, 'For the auditor')).id)
    await one.store.shelving.place(tester, sales.reports[0]!.id, sales.id)
    const files = await exportLibrary(tester, one)
    expect(texts(files)).not.toEqual(before)
    const done = await importLibrary(tester, other, files)
    expect(done.left).toEqual([])
    expect(texts(await exportLibrary(tester, other))).toEqual(texts(files))
    expect((await shelf(other, sales.name)).release).toBe(true)
    // what the folder does not hold stands behind what it does
    const [first] = (await shelf(other, sales.name)).reports
    const told = libraryOf(files)
    const without = filesOf({ ...told, reports: told.reports.filter(each => each.name !== first!.name) })
    expect((await importLibrary(tester, other, without)).changed).toEqual([])
    expect((await shelf(other, sales.name)).reports[0]!.name).toBe(first!.name)
  })

  it('tells drafts from what is published, and takes a change in as a version', async () => {
    const id = (await namesOf(one)).get('Credit note')!
    const { definition, version } = await one.store.report(tester, id)
    await one.store.save(tester, id, version, setText(definition, { block: 'pageTop', cell: 'tagline', part: 'item' }, 'by the sea'))
    const files = await exportLibrary(tester, one)
    const path = [...files.keys()].find(each => each.endsWith('/Credit note.yaml') && !each.includes('/published/'))!
    expect([...files.keys()]).toContain(path.replace('/Credit', '/published/Credit'))
    const done = await importLibrary(tester, other, files)
    expect([done.created, done.changed]).toEqual([[], ['Credit note']])
    expect(texts(await exportLibrary(tester, other))).toEqual(texts(files))
    // by hand, in a text editor
    files.set(path, Buffer.from(text(files, path).replace('by the sea', 'by the river')))
    await importLibrary(tester, other, files)
    const changed = await libraryAt(tester, other)
    expect(JSON.stringify(changed.reports.find(each => each.name === 'Credit note'))).toContain('by the river')
  })

  it('holds no secret, no rows, and no picture within its texts', async () => {
    const files = await exportLibrary(tester, one)
    const all = [...files].filter(([path]) => path.endsWith('.yaml')).map(([, bytes]) => Buffer.from(bytes).toString('utf8'))
    expect(all.some(each => /<svg viewBox|base64,/.test(each))).toBe(false)
    expect([...files.keys()].some(path => path.endsWith('.svg'))).toBe(true)
    expect(libraryOf(files)).toEqual(await libraryAt(tester, one))
    expect(texts(filesOf(libraryOf(files)))).toEqual(texts(files))
  })

  it('that cannot be taken in changes nothing, and says which file and why', async () => {
    const before = texts(await exportLibrary(tester, other))
    const files = await exportLibrary(tester, one)
    const refused = (change: (files: TextFiles) => void) => {
      const copy = new Map(files)
      change(copy)
      return importLibrary(tester, other, copy).then(
        () => '',
        (error: Error) => error.message,
      )
    }
    const path = [...files.keys()].find(each => each.endsWith('/Trial balance.yaml'))!
    const put = (find: string | RegExp, by: string) => (copy: TextFiles) =>
      void copy.set(path, Buffer.from(text(files, path).replace(find, by)))
    expect(await refused(put('definition:', 'definition: ['))).toMatch(/Trial balance\.yaml, line \d+: /)
    expect(await refused(put(/format: \d+/, 'format: 99'))).toMatch(/“Trial balance”: .*format 99/)
    expect(await refused(put('name: Trial balance', 'nom: Trial balance'))).toMatch(/Trial balance\.yaml has no name/)
    expect(await refused(copy => void copy.set(path.replace('Trial', 'Other'), files.get(path)!))).toMatch(
      /Two files are of the report “Trial balance”/,
    )
    const nesting = [...files.keys()].find(each => /kind: nested/.test(text(files, each)))!
    expect(
      await refused(copy => void copy.set(nesting, Buffer.from(text(files, nesting).replace(/report: .*/, 'report: Nowhere')))),
    ).toMatch(/names the report “Nowhere”, which is neither in the folder nor in the library/)
    expect(texts(await exportLibrary(tester, other))).toEqual(before)
  })
})
