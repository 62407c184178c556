import { spawn, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A MariaDB server of a test's own, on a socket in its folder. */
export interface TestMariadb {
  folder: string
  /** as a user, with a password where there is one */
  as: (user: string, password?: string, database?: string) => string
  /** runs statements as its administrator */
  sql: (text: string) => string
  stop: () => Promise<void>
}

export async function startMariadb(): Promise<TestMariadb> {
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  const data = join(folder, 'db')
  const root = process.getuid?.() === 0
  if (root) spawnSync('chown', ['mysql', folder])
  const user = root ? ['--user=mysql'] : []
  // its installer falls over now and then when another is at work on the same machine
  for (let left = 3; ; left--) {
    const made = spawnSync(
      'mariadb-install-db',
      ['--no-defaults', `--datadir=${data}`, '--auth-root-authentication-method=normal', '--skip-test-db', ...user],
      { encoding: 'utf8' },
    )
    if (!made.status) break
    if (!left) throw new Error(`MariaDB: ${made.stderr}${made.stdout}`)
    rmSync(data, { recursive: true, force: true })
  }
  const socket = join(folder, 's')
  const server = spawn(
    'mariadbd',
    [
      '--no-defaults',
      `--datadir=${data}`,
      `--socket=${socket}`,
      '--skip-networking',
      `--pid-file=${folder}/pid`,
      '--innodb-flush-log-at-trx-commit=0',
      '--default-time-zone=+00:00',
      ...user,
    ],
    { stdio: 'ignore' },
  )
  const sql = (text: string) => {
    const done = spawnSync(
      'mariadb',
      ['--no-defaults', `--socket=${socket}`, '-u', 'root', '-N', '-B', '--default-character-set=utf8mb4'],
      { encoding: 'utf8', input: text, maxBuffer: 1 << 28 },
    )
    if (done.status) throw new Error(done.stderr)
    return done.stdout.trim()
  }
  for (let left = 300; ; left--) {
    await new Promise(resolve => setTimeout(resolve, 100))
    try {
      sql('select 1')
      break
    } catch (error) {
      if (!left) throw error
    }
  }
  return {
    folder,
    as: (name, password = '', database = 'shop') =>
      `mysql://${encodeURIComponent(name)}${password && `:${encodeURIComponent(password)}`}@localhost/${database}?socket=` +
      encodeURIComponent(socket),
    sql,
    stop: async () => {
      const gone = new Promise(resolve => server.once('exit', resolve))
      server.kill('SIGKILL')
      await gone
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
