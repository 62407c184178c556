import { ownContext } from './access/context'
import { companyFolder } from '../demo/source'
import { mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { noSettings } from '../core/books/settings'
import { findTable } from '../core/catalog/types'
import { demoReports, invoiceRegister } from '../demo/reports/reports'
import { askCompany, demoData, tester } from '../tests/support'
import { type Estante, openEstante } from './estante'
import { choiceProblems, listParameters, readChoices } from './runs/choices'

let folder: string
let app: Estante
beforeAll(async () => {
  folder = demoData()
  app = await openEstante({ folder })
})
afterAll(() => app.close())
const register = async (answers: Record<string, string>) => app.input(tester, 'Invoice register', invoiceRegister(), answers)

describe('choices', () => {
  it('are narrowed by the answers above, sorted, searched without accents, in pages, with their number', async () => {
    const sql = async (text: string) => {
      const rows = await askCompany(app, { text, values: [], columns: [{ path: 'x', type: 'text' }] })
      return (rows.columns[0] as { values: string[] }).values
    }
    const towns = await readChoices(tester, app, await register({ region: '3' }), 'town', { limit: 100, count: true })
    expect(towns.choices.map(each => each.label)).toEqual(
      await sql('select name from "company"."towns" where region_id = 3 order by name collate "unicode"'),
    )
    expect(towns.total).toBe(towns.choices.length)
    const all = await sql('select code from "company"."customers" order by name collate "unicode", code')
    const pages = await Promise.all(
      [0, 150, 300].map(async offset => readChoices(tester, app, await register({}), 'customer', { limit: 150, offset })),
    )
    expect(pages.flatMap(page => page.choices.map(each => each.value))).toEqual(all)
    expect(
      (await readChoices(tester, app, await register({}), 'customer', { limit: 100, search: 'MARINA DO SUL' })).choices.map(
        each => each.label,
      ),
    ).toEqual(['Marina do Sul', 'Marina do Sul'])
    expect(
      (await readChoices(tester, app, await register({}), 'customer', { limit: 100, search: 'c-0007' })).choices.map(each => each.value),
    ).toEqual(['C-0007'])
  })

  it('a long list searched in memory gives what the source gives', async () => {
    const long = invoiceRegister()
    const lines = {
      name: 'line',
      label: 'Line',
      kind: 'choice' as const,
      required: false,
      choices: { table: 'invoice_lines', value: 'description', label: 'description' },
    }
    const input = {
      ...(await app.input(
        tester,
        'x',
        { ...long, parameters: [...long.parameters, { ...lines, choices: { table: 'journals', value: 'number', label: 'description' } }] },
        {},
      )),
    }
    const searches = ['crn-00', 'INVOICE inv-1041', 'j-0001', 'nowhere', 'ã']
    const asked = async () =>
      Promise.all(searches.map(search => readChoices(tester, app, input, 'line', { limit: 50, search, count: true })))
    const bySource = await asked()
    expect((await readChoices(tester, app, input, 'line', { limit: 50, count: true })).total).toBeGreaterThan(2000)
    // from memory means that nothing is read any more
    const reading = vi.spyOn(app.sources, 'reading')
    await expect
      .poll(async () => {
        reading.mockClear()
        await asked()
        return reading.mock.calls.length
      })
      .toBe(0)
    reading.mockRestore()
    expect(await asked()).toEqual(bySource)
    expect(bySource[0]!.total).toBeGreaterThan(20)
  })

  it('an answer that is none of them, or none any more once narrowed, is told in a sentence', async () => {
    expect(await choiceProblems(tester, app, await register({ customer: 'C-0001,C-9999' }))).toEqual([
      '“C-9999” is not among the choices of Customer.',
    ])
    expect(await choiceProblems(tester, app, await register({ region: '1', town: '4' }))).toEqual(['“4” is not among the choices of Town.'])
    expect(await choiceProblems(tester, app, await register({ region: '2', town: '4' }))).toEqual([])
    await expect(app.checkedInput(tester, 'x', invoiceRegister(), { customer: "'; drop table company.customers; --" })).rejects.toThrow(
      'is not among the choices of Customer.',
    )
  })

  it('parameters are listed with their kinds, defaults and first choices', async () => {
    const listed = await listParameters(tester, app, await register({}))
    expect(listed.map(each => [each.name, each.kind, each.default])).toEqual([
      ['period', 'period', '2026-P07'],
      ['region', 'choice', ''],
      ['town', 'choices', ''],
      ['customer', 'choices', ''],
      ['salesperson', 'choices', ''],
    ])
    expect(listed[2]).toMatchObject({ narrowedBy: ['region'], choicesInAll: 14 })
    expect(listed[3]!.choices).toHaveLength(20)
  })
})

it('what is kept with the source is in its catalog, for all reports', async () => {
  await app.sources.saveSettings(tester, '', {
    ...noSettings,
    columns: { 'invoices.total': { caption: 'Amount due', format: '0.0' } },
    calculated: [{ table: 'invoices', name: 'net', formula: 'total - tax_total' }],
  })
  const invoices = findTable((await app.sources.catalog(ownContext, '')).catalog, 'invoices')!
  expect(invoices.columns.find(column => column.name === 'total')).toMatchObject({ caption: 'Amount due', format: '0.0' })
  expect(invoices.calculated).toEqual([{ name: 'net', formula: 'total - tax_total' }])
  await app.sources.saveSettings(tester, '', noSettings)
  expect(findTable((await app.sources.catalog(ownContext, '')).catalog, 'invoices')!.calculated).toBeUndefined()
})

it(
  'with the source away, the library, the catalog as it was read last, and the pinned rows are there; a put-away report stays ' + 'away',
  async () => {
    const { id } = await app.store.report(tester, 'Invoice register')
    await app.store.beside.pin(tester, id, { period: '2026-P04' }, new TextEncoder().encode('{"levels":[]}'))
    await app.store.beside.saveAnswers(tester, id, 'Close of July', { period: '2026-P04' })
    await app.store.remove(tester, (await app.store.report(tester, 'Item sales')).id)
    const before = (await app.sources.catalog(ownContext, '')).catalog
    await app.close()
    const source = companyFolder(folder)
    renameSync(source, `${source}.away`)
    mkdirSync(dirname(source), { recursive: true })
    writeFileSync(source, 'not a database')
    const without = await openEstante({ folder })
    try {
      expect((await without.store.library(tester)).flatMap(shelf => shelf.reports.map(report => report.name))).toEqual(
        demoReports()
          .map(each => each.name)
          .filter(name => name !== 'Item sales'),
      )
      expect((await without.sources.catalog(ownContext, '')).catalog).toEqual(before)
      expect(without.sources.problem('')).toMatch(/^The source could not be opened: /)
      expect(await without.store.beside.pinned(tester, id)).toMatchObject({ answers: { period: '2026-P04' } })
      expect(await without.store.beside.savedAnswers(tester, id)).toEqual([{ name: 'Close of July', answers: { period: '2026-P04' } }])
      await expect(without.pool.preview(tester, await without.input(tester, 'x', invoiceRegister(), {}), 10)).rejects.toThrow(
        'The source could not be opened',
      )
    } finally {
      await without.close()
      rmSync(source)
      renameSync(join(`${source}.away`), source)
      app = await openEstante({ folder })
    }
  },
)
