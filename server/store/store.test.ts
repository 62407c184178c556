import { execFileSync, spawn, spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setColumnWidth } from '../../core/definition/edits/edits'
import { salesInvoice } from '../../demo/reports/invoice'
import { temporaryFolder, tester } from '../../tests/support'
import { holderOf, takeFolder } from './lock'
import { Store } from './store'
import { ConflictError } from './records'

const wide = (width: number) => setColumnWidth(salesInvoice(), 'lines', 'amount', width)

/** A PostgreSQL server of the test's own, on a socket in its folder. */
function startServer(): { url: string; stop: () => void } {
  const folder = temporaryFolder()
  const bin = spawnSync('bash', ['-c', 'dirname "$(ls /usr/lib/postgresql/*/bin/initdb | tail -n 1)"'], { encoding: 'utf8' }).stdout.trim()
  const asUser = (command: string) =>
    process.getuid?.() === 0
      ? spawnSync('su', ['postgres', '-s', '/bin/bash', '-c', command], { encoding: 'utf8' })
      : spawnSync('bash', ['-c', command], { encoding: 'utf8' })
  spawnSync('chmod', ['777', folder])
  const made = asUser(
    `${bin}/initdb -D ${folder}/db -U estante -A trust -E UTF8 >/dev/null && ${bin}/pg_ctl -D ${folder}/db -w -o "-k ${folder} -c ` +
      `listen_addresses=''" -l ${folder}/log start >/dev/null`,
  )
  if (made.status) throw new Error(`PostgreSQL did not start: ${made.stderr}`)
  return {
    url: `postgresql://estante@/postgres?host=${encodeURIComponent(folder)}`,
    stop: () => asUser(`${bin}/pg_ctl -D ${folder}/db -m immediate stop`),
  }
}

describe.each(['a data folder', 'a PostgreSQL server'])('reports in %s', where => {
  let store: Store
  let server: ReturnType<typeof startServer> | undefined
  beforeAll(async () => {
    if (where === 'a data folder') store = await Store.open({ folder: join(temporaryFolder(), 'store') })
    else {
      server = startServer()
      store = await Store.open({ url: server.url })
    }
  })
  afterAll(async () => {
    await store.close()
    server?.stop()
  })

  it('refresh addresses answer until they end or are taken back, and their secret is kept only as a hash', async () => {
    const id = await store.create(tester, 'Tests', 'Refreshed', salesInvoice(), true)
    const wanted = {
      label: 'Forecast',
      answers: { month: '2026-09' },
      output: { format: 'csv', level: 'lines' } as const,
      until: '2026-12-31',
    }
    const first = await store.addresses.add(tester, id, wanted)
    const second = await store.addresses.add(tester, id, { ...wanted, label: 'Other', output: { format: 'json' } })
    expect(first.token).not.toBe(second.token)
    expect(await store.addresses.use(tester, first.token, '2026-12-31')).toMatchObject({ reportId: id, ...wanted })
    await store.addresses.use(tester, first.token, '2026-11-24')
    const listed = await store.addresses.list(tester, id)
    expect(listed.map(each => [each.label, each.uses])).toEqual(
      expect.arrayContaining([
        ['Forecast', 2],
        ['Other', 0],
      ]),
    )
    expect(JSON.stringify(listed)).not.toContain(first.token)
    await expect(store.addresses.use(tester, first.token, '2027-01-01')).rejects.toThrow('This refresh address answered until 2026-12-31')
    await expect(store.addresses.use(tester, `${first.token}x`, '2026-11-24')).rejects.toThrow('There is no such refresh address')
    await store.addresses.revoke(tester, first.id)
    await expect(store.addresses.use(tester, first.token, '2026-11-24')).rejects.toThrow('was taken back')
    await expect(store.addresses.revoke(tester, first.id)).rejects.toThrow('taken back already')
    expect((await store.addresses.use(tester, second.token, '2026-11-24')).output).toEqual({ format: 'json' })
    await store.remove(tester, id)
    await expect(store.addresses.use(tester, second.token, '2026-11-24')).rejects.toThrow('There is no such refresh address')
  })
  it('versions keep the names they are given, however many come after, and a letterhead is kept once', async () => {
    const id = await store.create(tester, 'Named', 'Named versions', wide(50), false)
    await store.nameVersion(tester, id, 1, 'The first')
    for (let number = 1; number < 5; number++) await store.save(tester, id, number, wide(50 + number))
    const list = await store.versions(tester, id, 2)
    expect(list.map(each => [each.number, each.name])).toEqual([
      [5, null],
      [4, null],
      [1, 'The first'],
    ])
    await store.nameVersion(tester, id, 1, ' ')
    expect((await store.versions(tester, id, 2)).map(each => each.number)).toEqual([5, 4])
    await expect(store.nameVersion(tester, id, 99, 'x')).rejects.toThrow('There is no version 99 of this report.')
    expect(await store.letterhead(tester)).toEqual({ value: undefined, version: 0 })
    const head = salesInvoice().layouts[0]!.top!
    expect(await store.keepLetterhead(tester, head, 0)).toBe(1)
    expect(await store.keepLetterhead(tester, { ...head, height: 55 }, 1)).toBe(2)
    // somebody who has not seen the second one is told, and it stays
    await expect(store.keepLetterhead(tester, head, 1)).rejects.toThrow('Somebody else changed the letterhead in the meantime')
    expect(await store.letterhead(tester)).toEqual({ value: { ...head, height: 55 }, version: 2 })
    await store.remove(tester, id)
  })
  it('are kept with every version; a save names the one it is based on', async () => {
    const id = await store.create(tester, 'Invoicing', 'First', salesInvoice(), true)
    expect(await store.save(tester, id, 1, wide(80))).toBe(2)
    expect(await store.save(tester, id, 2, wide(81))).toBe(3)
    expect((await store.report(tester, 'First')).definition).toEqual(wide(81))
    expect(await store.version(tester, id, 2)).toEqual(wide(80))
    // readers still run what was published
    expect((await store.report(tester, 'First', 'published')).definition).toEqual(salesInvoice())
    expect(await store.publishing.publish(tester, id)).toEqual({ published: 3 })
    expect((await store.report(tester, id, 'published')).definition).toEqual(wide(81))
  })
  it('two people saving: the later is told, and both are kept', async () => {
    const id = await store.create(tester, 'Invoicing', 'Shared', salesInvoice(), false)
    await store.save(tester, id, 1, wide(70))
    const conflict = await store.save(tester, id, 1, wide(71)).catch((error: unknown) => error)
    expect(conflict).toBeInstanceOf(ConflictError)
    expect((conflict as ConflictError).message).toBe(
      'Somebody else saved this report in the meantime (version 2); your changes are kept beside it as version 3. Open the current ' +
        'version and bring them over.',
    )
    expect((await store.report(tester, id)).definition).toEqual(wide(70))
    expect(await store.version(tester, id, 3)).toEqual(wide(71))
    expect(await store.save(tester, id, 2, wide(72))).toBe(4)
  })
  it('two saves at the same moment: one wins, none is lost', async () => {
    const id = await store.create(tester, 'Invoicing', 'At once', salesInvoice(), false)
    const outcomes = await Promise.allSettled([60, 61, 62].map(width => store.save(tester, id, 1, wide(width))))
    expect(outcomes.filter(each => each.status === 'fulfilled').length).toBe(1)
    const kept = await Promise.all([2, 3, 4].map(number => store.version(tester, id, number)))
    expect(kept).toEqual(expect.arrayContaining([wide(60), wide(61), wide(62)]))
  })
  it('a definition that is not right never gets in', async () => {
    const id = await store.create(tester, 'Invoicing', 'Strict', salesInvoice(), false)
    await expect(store.save(tester, id, 1, { ...salesInvoice(), format: 9 } as never)).rejects.toThrow('newer than this program')
    expect((await store.report(tester, id)).version).toBe(1)
  })
  it('a name that is taken gets a number; a name that is wrong gets a sentence', async () => {
    const id = await store.create(tester, 'Invoicing', 'First', salesInvoice(), false)
    expect((await store.report(tester, id)).name).toBe('First 2')
    await expect(store.report(tester, 'Nobody')).rejects.toThrow(/^There is no report “Nobody”; there are “At once”/)
    await expect(store.report(tester, id, 'published')).rejects.toThrow('“First 2” has not been published yet; its author can publish it.')
  })
})

it('a server killed in the middle of saving loses nothing that it had confirmed', async () => {
  const folder = temporaryFolder()
  const script = join(folder, 'saver.mjs')
  mkdirSync(join(process.cwd(), '.build'), { recursive: true })
  const bundle = join(process.cwd(), '.build', 'saver.mjs')
  writeFileSync(
    `${script}.ts`,
    `
    import { Store } from ${JSON.stringify(join(process.cwd(), 'server/store/store'))}
    import { salesInvoice } from ${JSON.stringify(join(process.cwd(), 'demo/reports/invoice'))}
    import { setColumnWidth } from ${JSON.stringify(join(process.cwd(), 'core/definition/edits/edits'))}
    const store = await Store.open({ folder: process.argv[2]! })
    const id = await store.create({ person: 'saver' }, 'Shelf', 'Report', salesInvoice(), false)
    for (let based = 1; ; ) {
      based = await store.save({ person: 'saver' }, id, based, setColumnWidth(salesInvoice(), 'lines', 'amount', 20 + based % 200))
      process.stdout.write(based + '\\n')
    }`,
  )
  await build({
    entryPoints: [`${script}.ts`],
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    outfile: bundle,
    logLevel: 'error',
  })
  const child = spawn(process.execPath, [bundle, join(folder, 'store')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, ESTANTE_ROOT: process.cwd() },
  })
  let confirmed = 0
  await new Promise<void>(resolve => {
    child.stdout.on('data', data => {
      confirmed = Number(String(data).trim().split('\n').at(-1))
      if (confirmed > 25) child.kill('SIGKILL')
    })
    child.on('exit', () => resolve())
  })
  const store = await Store.open({ folder: join(folder, 'store') })
  const report = await store.report(tester, 'Report')
  expect(report.version).toBeGreaterThanOrEqual(confirmed)
  for (let number = 2; number <= report.version; number++)
    expect(await store.version(tester, report.id, number)).toEqual(wide(20 + ((number - 1) % 200)))
  await store.close()
})

it.skipIf(process.getuid?.() !== 0)(
  'a full disk is told in a sentence, loses nothing, and saving goes on when there is room again',
  async () => {
    const folder = temporaryFolder()
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', folder])
    try {
      const store = await Store.open({ folder: join(folder, 'store') })
      const id = await store.create({ person: 'saver' }, 'Shelf', 'Report', salesInvoice(), false)
      const { bavail, bsize } = statfsSync(folder)
      writeFileSync(join(folder, 'ballast'), Buffer.alloc(Math.max(0, bavail * bsize - 100_000)))
      let version = 1
      const fault = await (async () => {
        for (;;) version = await store.save(tester, id, version, wide(20 + version))
      })().catch((error: unknown) => error)
      expect(fault).toMatchObject({
        message: 'The disk of the data folder is full; nothing was saved. Free some space and save again: your changes are still here.',
        status: 507,
      })
      expect((await store.report(tester, id)).version).toBe(version)
      rmSync(join(folder, 'ballast'))
      expect(await store.save(tester, id, version, wide(99))).toBe(version + 1)
      await store.close()
      const again = await Store.open({ folder: join(folder, 'store') })
      expect((await again.report(tester, id)).definition).toEqual(wide(99))
      await again.close()
    } finally {
      execFileSync('umount', ['-l', folder])
    }
  },
)

describe('the data folder', () => {
  it('belongs to one process, which a second one is told of', () => {
    const folder = temporaryFolder()
    const held = takeFolder(folder)
    held.tell('http://127.0.0.1:4780')
    expect(() => takeFolder(folder)).toThrow(
      new RegExp(
        `^The data folder ${folder} is in use by another Estante \\(process ${process.pid} at http://127\\.0\\.0\\.1:4780, since ` +
          `.*\\); stop that one or name another folder\\.$`,
      ),
    )
    held.release()
    expect(holderOf(folder)).toBeUndefined()
    takeFolder(folder).release()
  })
  it('is free again when its process was killed, even if its number is used again', () => {
    const folder = temporaryFolder()
    for (const left of [
      { pid: 2 ** 22 - 3, started: '1', since: 'x' },
      { pid: process.pid, started: 'another time', since: 'x' },
    ]) {
      writeFileSync(join(folder, 'holder.json'), JSON.stringify(left))
      const held = takeFolder(folder)
      expect((JSON.parse(readFileSync(join(folder, 'holder.json'), 'utf8')) as { pid: number }).pid).toBe(process.pid)
      held.release()
    }
  })
})
