import { spawnSync } from 'node:child_process'
import { appendFileSync, existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { comment, companyParts } from '../demo/company/fill'

/** A PostgreSQL server of a test's own, on a socket in its folder, and with TLS on a port where one is wanted. */
export interface TestServer {
  folder: string
  /** as its superuser */
  url: string
  /** as somebody else, over the socket */
  as: (user: string, password?: string, database?: string) => string
  /** runs statements by psql, as the superuser; comes back with the rows, cells parted by | */
  sql: (text: string) => string
  stop: () => void
  start: () => void
}

/** Folder of the programs of the server under test: Debian's, or those that ESTANTE_PROGRAMS names (see scripts/versions.mjs). */
const programsUnderTest = () => {
  if (process.env.ESTANTE_PROGRAMS) return process.env.ESTANTE_PROGRAMS
  const version = readdirSync('/usr/lib/postgresql')
    .filter(each => /^\d+$/.test(each))
    .sort((a, b) => Number(a) - Number(b))
    .at(-1)!
  return `/usr/lib/postgresql/${version}/bin`
}

const quote = (text: string) => `'${text.replaceAll("'", `'\\''`)}'`

/** The programs refuse to run as root. */
function asUser(command: string): void {
  const done =
    process.getuid?.() === 0
      ? spawnSync('su', ['postgres', '-s', '/bin/bash', '-c', command], { encoding: 'utf8' })
      : spawnSync('bash', ['-c', command], { encoding: 'utf8' })
  if (done.status) throw new Error(`PostgreSQL: ${done.stderr}${done.stdout}`)
}

/** Starts a server. `initdb` and `settings` are further options of its programs. */
export function startServer({
  programs = programsUnderTest(),
  initdb = '-E UTF8',
  settings = '',
  port = 0,
}: { programs?: string; initdb?: string; settings?: string; port?: number } = {}): TestServer {
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  spawnSync('chmod', ['777', folder])
  const db = join(folder, 'db')
  asUser(`${programs}/initdb -D ${db} -U estante -A trust ${initdb} >/dev/null`)
  if (port) {
    const script = `cd ${db} && openssl req -new -x509 -days 2 -nodes -subj /CN=localhost -addext subjectAltName=DNS:localhost \
      -out server.crt -keyout server.key 2>/dev/null && chmod 600 server.key`
    asUser(script)
    asUser(`printf 'local all all trust\\nhostssl all all 127.0.0.1/32 scram-sha-256\\n' > ${db}/pg_hba.conf`)
  }
  const start = () =>
    asUser(
      `${programs}/pg_ctl -D ${db} -w -l ${folder}/log -o ${quote(
        `-k ${folder} -c fsync=off -c password_encryption=scram-sha-256 -c ` +
          `${port ? `port=${port} -c ssl=on -c listen_addresses=127.0.0.1` : "listen_addresses=''"} ${settings}`,
      )} start >/dev/null`,
    )
  start()
  const socket = (user: string, password = '', database = 'postgres') =>
    `postgresql://${encodeURIComponent(user)}${password && `:${encodeURIComponent(password)}`}@/${database}?host=` +
    `${encodeURIComponent(folder)}${port ? `&port=${port}` : ''}`
  const psql = [
    '-h',
    folder,
    '-U',
    'estante',
    '-d',
    'postgres',
    '-v',
    'ON_ERROR_STOP=1',
    '-q',
    '-t',
    '-A',
    ...(port ? ['-p', String(port)] : []),
  ]
  return {
    folder,
    url: socket('estante'),
    as: socket,
    sql: text => {
      const path = join(folder, 'script.sql')
      writeFileSync(path, text)
      const done = spawnSync('psql', [...psql, '-f', path], { encoding: 'utf8', maxBuffer: 1 << 28 })
      if (done.status) throw new Error(done.stderr)
      return done.stdout.trim()
    },
    stop: () => {
      if (existsSync(join(db, 'postmaster.pid'))) asUser(`${programs}/pg_ctl -D ${db} -m immediate stop >/dev/null`)
    },
    start,
  }
}

/** A server and its folder are gone. */
export function removeServer(server: TestServer): void {
  server.stop()
  rmSync(server.folder, { recursive: true, force: true })
}

/** The demo company in a schema of a server, with a user `reader` who may only read it. */
export async function loadCompany(server: TestServer, schema: string, scale = 1): Promise<void> {
  const path = join(server.folder, 'company.sql')
  writeFileSync(path, 'begin;\n')
  for (const part of companyParts(schema, scale))
    if ('statement' in part) appendFileSync(path, `${part.statement}\n`)
    else {
      appendFileSync(path, `copy "${part.table}" from stdin;\n`)
      appendFileSync(path, new Uint8Array(await part.rows.blob().arrayBuffer()))
      appendFileSync(path, '\\.\n')
    }
  await comment({ exec: text => Promise.resolve(appendFileSync(path, `${text};\n`)) }, () => true)
  appendFileSync(path, 'commit;\nanalyze;\n')
  server.sql(`\\i ${path}\n`)
  rmSync(path)
  server.sql(
    `do $$ begin if not exists (select from pg_roles where rolname = 'reader') then create role reader login password 'secret';
     end if; end $$;
     grant usage on schema "${schema}" to reader; grant select on all tables in schema "${schema}" to reader;`,
  )
}
