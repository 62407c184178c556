import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { setText } from '../core/definition/edits/edits'
import type { ReportDefinition } from '../core/definition/report'
import { demoData, temporaryFolder, tester } from '../tests/support'
import { type Estante, openEstante } from '../server/estante'
import { BoundFolder, type Told } from './boundFolder'
import { sideOfFolder } from './shelfSide'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

const shelf = 'Invoicing'
let folder = ''
let told: Told[] = []
let count = 0
beforeEach(() => {
  folder = join(temporaryFolder(), `bound${++count}`)
  mkdirSync(folder)
})
const match = async (): Promise<Told[]> => {
  told = []
  await new BoundFolder(folder, shelf, sideOfFolder(tester, estante)).match(each => told.push(each))
  return told
}
const reports = async () => (await estante.store.library(tester)).find(each => each.name === shelf)!.reports
const idOf = async (name: string) => (await reports()).find(each => each.name === name)!.id
const file = (name: string) => join(folder, `${name}.yaml`)
const text = (name: string) => readFileSync(file(name), 'utf8')
const tagged = /text: (harbour supplies|by )[^\n]*/
const change = (name: string, by: string) => writeFileSync(file(name), text(name).replace(tagged, `text: ${by}`))
/** Somebody changes the report on screen. */
async function onScreen(name: string, by: string): Promise<number> {
  const id = await idOf(name)
  const { definition, version } = await estante.store.report(tester, id)
  return estante.store.save(tester, id, version, setText(definition, { block: 'pageTop', cell: 'tagline', part: 'item' }, by))
}
const tagline = (definition: ReportDefinition) =>
  (definition.layouts[0]!.top!.items.find(item => item.id === 'tagline') as { text: string }).text

describe('a folder that is bound to a shelf', () => {
  it('gets all of its reports, and then nothing more', async () => {
    const first = await match()
    expect(first.map(each => each.written).sort()).toEqual((await reports()).map(each => `${each.name}.yaml`).sort())
    expect(await match()).toEqual([])
    expect(readdirSync(join(folder, 'pictures')).length).toBeGreaterThan(0)
  })

  it('makes a change of a file a version, and a change on screen a file', async () => {
    await match()
    change('Sales invoice', 'by the sea')
    const [saved] = await match()
    expect(saved).toEqual({ saved: 'Sales invoice', version: (await estante.store.report(tester, await idOf('Sales invoice'))).version })
    expect(tagline((await estante.store.report(tester, await idOf('Sales invoice'))).definition)).toBe('by the sea')
    const version = await onScreen('Sales invoice', 'by the river')
    expect(await match()).toEqual([{ written: 'Sales invoice.yaml', version }])
    expect(text('Sales invoice')).toContain('text: by the river')
    expect(await match()).toEqual([])
  })

  it('keeps both where both have changed: the library’s stands, the folder’s is a version beside it', async () => {
    await match()
    writeFileSync(file('Credit note'), text('Credit note').replace(/text: harbour supplies[^\n]*/, 'text: from the folder'))
    await onScreen('Credit note', 'from the screen')
    const [{ saved, keptAs } = {}] = await match()
    expect(saved).toBe('Credit note')
    const id = await idOf('Credit note')
    expect(tagline((await estante.store.report(tester, id)).definition)).toBe('from the screen')
    expect(tagline(await estante.store.version(tester, id, keptAs!))).toBe('from the folder')
    expect(text('Credit note')).toContain('from the screen')
    expect(await match()).toEqual([])
  })

  it('takes new files and new names, and says once what is wrong with a file, without touching it', async () => {
    await match()
    writeFileSync(file('Fresh'), text('Invoice register').replace('name: Invoice register', 'name: Fresh'))
    expect(await match()).toEqual([{ created: 'Fresh' }])
    writeFileSync(file('Fresh'), text('Fresh').replace('name: Fresh', 'name: Fresher'))
    expect((await match()).map(each => each.saved)).toEqual(['Fresher'])
    expect((await reports()).map(each => each.name)).toContain('Fresher')
    writeFileSync(file('Fresh'), 'name: Fresher\ndefinition: [')
    const bound = new BoundFolder(folder, shelf, sideOfFolder(tester, estante))
    const problems: Told[] = []
    await bound.match(each => problems.push(each))
    await bound.match(each => problems.push(each))
    expect(problems).toHaveLength(1)
    expect(problems[0]!.problem).toMatch(/^Fresh\.yaml: Fresh\.yaml, line \d+: /)
    expect(text('Fresh')).toBe('name: Fresher\ndefinition: [')
    // put away, but changed meanwhile: nothing that was written is lost
    await estante.store.shelving.putAway(tester, await idOf('Fresher'))
    writeFileSync(file('Fresh'), text('Invoice register').replace('name: Invoice register', 'name: Fresh again'))
    expect(await match()).toEqual([{ created: 'Fresh again' }])
    await estante.store.shelving.putAway(tester, await idOf('Fresh again'))
    expect(await match()).toEqual([{ removed: 'Fresh.yaml' }])
  })

  it('never writes over a file that is not its own, and tells a name that another has before it saves', async () => {
    writeFileSync(file('Credit note'), 'notes: [of my own')
    const told = await match()
    expect(told.filter(each => each.problem).map(each => each.problem)).toEqual([expect.stringMatching(/^Credit note\.yaml: /)])
    expect(text('Credit note')).toBe('notes: [of my own')
    expect(told.map(each => each.written)).toContain('Credit note 2.yaml')
    const { version } = await estante.store.report(tester, await idOf('Invoice register'))
    writeFileSync(file('Invoice register'), text('Invoice register').replace('name: Invoice register', 'name: Sales invoice'))
    expect((await match()).map(each => each.problem).join()).toContain('Another report is called “Sales invoice” already')
    expect((await estante.store.report(tester, await idOf('Invoice register'))).version).toBe(version)
  })

  it('lets a report be where its file is taken out, until that report changes; knows again what it has met', async () => {
    await match()
    rmSync(file('Invoice register'))
    expect(await match()).toEqual([])
    expect(readdirSync(folder)).not.toContain('Invoice register.yaml')
    const id = await idOf('Invoice register')
    const { definition, version } = await estante.store.report(tester, id)
    await estante.store.save(tester, id, version, { ...definition, language: 'de-DE' })
    expect((await match()).map(each => each.written)).toEqual(['Invoice register.yaml'])
    // bound anew, with the same files: they are known by their names
    rmSync(join(folder, '.estante.json'))
    expect(await match()).toEqual([])
    rmSync(join(folder, '.estante.json'))
    change('Sales invoice', 'by nobody knows whom')
    const [{ keptAs } = {}] = await match()
    expect(tagline(await estante.store.version(tester, await idOf('Sales invoice'), keptAs!))).toBe('by nobody knows whom')
  })
})
