import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from './support'

/** The command line on the data folder that the server under test holds. */
function estante(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    ['.build/cli/estante.mjs', 'source', ...args, '--data', '.build/e2e-data'],
    { encoding: 'utf8', env: { ...process.env, ESTANTE_ROOT: process.cwd() } },
  )
  const lines = stdout.trim() ? stdout.trim().split('\n') : []
  return { status, lines: lines.map(line => JSON.parse(line) as Record<string, unknown>), told: stderr.trim() }
}

test('a folder of files becomes a source from the command line, through the server that holds the data', async ({ page }) => {
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  try {
    writeFileSync(join(folder, 'berths.csv'), 'Berth,Length\nQ1,12.50\nQ2,18.00\n')
    writeFileSync(join(folder, 'visits.tsv'), 'Visit\tBerth\n1\tQ1\n2\tQ2\n3\tQ1\n')
    writeFileSync(join(folder, 'notes.pdf'), 'left out')
    const added = estante('add', 'Harbour office', '--files', folder)
    expect(added).toMatchObject({ status: 0, told: '' })
    expect(added.lines).toHaveLength(1)
    expect(added.lines[0]).toMatchObject({
      source: 'Harbour office',
      tables: [
        { name: 'berths', rows: 2, key: ['berth'] },
        { name: 'visits', rows: 3, key: ['visit'] },
      ],
    })
    // what the command says is what the program has
    const listed = estante('list').lines.find(each => each.name === 'Harbour office')
    expect(listed).toEqual({ id: added.lines[0]!.id, name: 'Harbour office', kind: 'files' })
    const catalog = (await (await page.request.get(`/api/sources/${String(listed!.id)}/catalog`)).json()) as { tables: { name: string }[] }
    expect(catalog.tables.map(each => each.name)).toEqual(['berths', 'visits'])
    // files in place of those that are there, and settings that fit or do not
    writeFileSync(join(folder, 'berths.csv'), 'Berth,Length\nQ3,9.00\n')
    const again = estante('refresh', 'Harbour office', '--files', join(folder, 'berths.csv'))
    expect(again).toMatchObject({ status: 0, lines: [{ source: 'Harbour office', tables: [{ name: 'berths', rows: 1 }] }] })
    const [kept] = estante('settings', 'Harbour office').lines
    writeFileSync(join(folder, 'kept.json'), JSON.stringify({ ...kept, columns: { 'berths.length': { caption: 'Metres' } } }))
    expect(estante('settings', 'Harbour office', '--from', join(folder, 'kept.json'))).toMatchObject({ status: 0, told: '' })
    expect(estante('settings', 'Harbour office').lines[0]).toMatchObject({ columns: { 'berths.length': { caption: 'Metres' } } })
    writeFileSync(join(folder, 'kept.json'), '{')
    expect(estante('settings', 'Harbour office', '--from', join(folder, 'kept.json')).told).toContain('holds no settings of a source')
    rmSync(join(folder, 'kept.json'))
    expect(estante('add', 'Daily', '--files', folder, '--watch').told).toContain('may not be watched')
    expect(estante('list').lines.some(each => each.name === 'Daily')).toBe(false)
    expect(estante('add', 'Harbour office', '--files', folder)).toMatchObject({
      status: 2,
      lines: [],
      told: 'There is a source “Harbour office” already; choose another name.',
    })
    expect(estante('add', 'Other', '--files', join(folder, 'none'))).toMatchObject({
      status: 2,
      told: expect.stringMatching(/^There is nothing at/),
    })
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})
