import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../../server/estante'
import { closedPeriods } from '../../server/sources/reading/closedPeriods'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

describe('periods', () => {
  const post = (document: object) =>
    estante.sources
      .get('')
      .desk!.post(tester, document)
      .catch((error: Error) => error.message)
  const close = (year: string, number: string, date: string) => post({ kind: 'closing', closing: { year, number, date } })
  const lines = [
    { account: '6150', branch: 'NQ', department: 'ADM', debit: '120.50' },
    { account: '1010', branch: 'NQ', credit: '120.50' },
  ]
  const refused = async (date: string) => {
    const said = await post({ kind: 'entry', entry: { date, description: 'Paint for the office', lines } })
    return /^D-\d+$/.test(said) ? 'posted' : said
  }

  it('are closed in their order, once they are over, and take nothing until they are opened again', async () => {
    expect(await close('2026', '7', '2026-10-31')).toBe('The period 2026-10 is not over on 2026-10-31; close it after its last day.')
    expect(await close('2026', '8', '2027-01-01')).toBe('The period 2026-10 is open still; close it first.')
    expect(await close('2026', '99', '2026-11-02')).toBe('There is no such period in the books; choose another.')
    expect(await close('2026', '6', '2026-11-02')).toBe('The period 2026-09 is closed already.')
    expect(await refused('2026-09-30')).toBe('The period 2026-09 is closed; choose a later date.')
    expect(await refused('2026-10-20')).toBe('posted')
    const found = async () => {
      const { catalog } = await estante.sources.catalog(tester, '')
      return estante.sources.reading(tester, '', (snapshot, { schema }) => closedPeriods(snapshot, catalog, schema))
    }
    const before = await found()
    expect(await close('2026', '7', '2026-11-02')).toBe('2026-10')
    const now = await found()
    expect(now.filter(each => !before.some(other => other.code === each.code))).toEqual([{ code: '2026-P07', on: '2026-11-02' }])
    expect(await refused('2026-10-20')).toBe('The period 2026-10 is closed; choose a later date.')
    const open = (year: string, number: string) => post({ kind: 'closing', closing: { year, number } })
    expect(await open('2026', '6')).toBe('The period 2026-10 is closed too; open it first.')
    expect(await open('2026', '8')).toBe('The period 2026-11 is open already.')
    expect(await estante.sources.get('').desk!.offers(tester)).toMatchObject({ closed: { name: '2026-10', year: '2026', number: '7' } })
    expect(await open('2026', '7')).toBe('2026-10')
    expect(await refused('2026-10-20')).toBe('posted')
    expect(await found()).toEqual(before)
  })
})
