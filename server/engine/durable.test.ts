import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { PGlite } from '@electric-sql/pglite'
import { expect, it } from 'vitest'
import { temporaryFolder } from '../../tests/support'
import { isMade, keepCopy, makeFolder, openFolder } from './durable'

const folder = join(temporaryFolder(), 'engine')
const rows = async (db: PGlite) => (await db.query<{ a: number }>('select a from t order by a')).rows.map(row => row.a)

it('a folder is made whole or not at all; one that does not open gives way to its last copy and the journal', async () => {
  expect(isMade(folder)).toBe(false)
  await expect(makeFolder(folder, () => Promise.reject(new Error('cut off')))).rejects.toThrow('cut off')
  expect(existsSync(folder) || existsSync(`${folder}.making`)).toBe(false)
  await makeFolder(folder, async db => void (await db.exec('create table t (a integer); insert into t values (1)')))
  const { db } = await openFolder(folder)
  const asked = await db.query<{ name: string; setting: string }>(
    "select name, setting from pg_settings where name in ('fsync', 'full_page_writes', 'wal_sync_method', 'synchronous_commit')",
  )
  expect(Object.fromEntries(asked.rows.map(row => [row.name, row.setting]))).toEqual({
    fsync: 'on',
    full_page_writes: 'on',
    wal_sync_method: 'fsync',
    synchronous_commit: 'on',
  })
  await db.exec('insert into t values (2)')
  await keepCopy(db, folder)
  await db.exec('insert into t values (3)')
  await db.close()
  // the file that says where the engine stands is gone
  rmSync(join(folder, 'global', 'pg_control'))
  const again = await openFolder(folder)
  expect(await rows(again.db)).toEqual([1, 2, 3])
  expect(again.note).toMatch(
    /could not be opened .* set aside as .*; its last sound copy was opened instead, with all that its journal holds\.$/,
  )
  await again.db.exec('insert into t values (4)')
  expect(await rows(again.db)).toEqual([1, 2, 3, 4])
  await again.db.close()
  expect(readdirSync(dirname(folder)).filter(name => name.includes('set-aside'))).toHaveLength(1)
})

it('what an engine that was ended has left is cleared: its lock, empty or not, and the files of its sorts', async () => {
  writeFileSync(join(folder, 'postmaster.pid'), '')
  const left = join(folder, 'base', 'pgsql_tmp')
  mkdirSync(left, { recursive: true })
  writeFileSync(join(left, 'pgsql_tmp1.0'), 'x')
  const { db, note } = await openFolder(folder)
  expect(note).toBeUndefined()
  expect(await rows(db)).toEqual([1, 2, 3, 4])
  expect(existsSync(join(left, 'pgsql_tmp1.0'))).toBe(false)
  await db.close()
})

it('without a copy a folder that does not open stays where it is, and that is said', async () => {
  const bare = join(temporaryFolder(), 'bare')
  await makeFolder(bare, async db => void (await db.exec('create table t (a integer)')))
  const control = join(bare, 'global', 'pg_control')
  copyFileSync(control, `${bare}.control`)
  rmSync(control)
  await expect(openFolder(bare)).rejects.toThrow(/cannot be opened .* no sound copy/)
  expect(statSync(join(bare, 'PG_VERSION')).isFile()).toBe(true)
  writeFileSync(control, readFileSync(`${bare}.control`))
  const { db } = await openFolder(bare)
  expect(await rows(db)).toEqual([])
  await db.close()
})

it('a folder is a copy of an empty one that is kept, and of its own where that does not open', async () => {
  const place = join(temporaryFolder(), 'made')
  const empty = join(place, '.empty')
  const make = (name: string) =>
    makeFolder(join(place, name), async db => void (await db.exec(`create table t (a integer); insert into t values (7)`)), { empty })
  const holds = async (name: string) => {
    const { db, note } = await openFolder(join(place, name))
    const found = await rows(db)
    await db.close()
    return [found, note]
  }
  mkdirSync(place, { recursive: true })
  await make('first')
  // nothing of one is in the next
  await make('second')
  expect([await holds('first'), await holds('second')]).toEqual([
    [[7], undefined],
    [[7], undefined],
  ])
  rmSync(join(empty, 'global', 'pg_control'))
  await make('third')
  expect(await holds('third')).toEqual([[7], undefined])
  expect(readdirSync(place).filter(name => name.includes('.empty.'))).toEqual([])
}, 120_000)
