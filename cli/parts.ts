import { existsSync, statSync, writeFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import type { RunResult } from '../server/runs/tasks'
import { type Estante, openEstante } from '../server/estante'
import { holderOf } from '../server/store/lock'
import { UsageError } from './usage'

/** Where a server answers, and the key by which who can read its data folder may do everything there. */
export interface Answering {
  address: string
  key?: string
}

/** The server that holds a data folder; nothing where none does. */
export function serverHolding(folder: string): Answering | undefined {
  const { address, key } = holderOf(folder) ?? {}
  return address ? { address, ...(key ? { key } : {}) } : undefined
}

const headersFor = ({ address, key }: Answering) => ({
  origin: new URL(address).origin,
  ...(key ? { authorization: `Bearer ${key}` } : {}),
})

/** @throws UsageError with the server's sentence */
async function asked(server: Answering, path: string, init: RequestInit = {}): Promise<Response> {
  const { address } = server
  const response = await fetch(new URL(path, address), { ...init, headers: { ...headersFor(server), ...(init.headers as object) } })
  if (response.ok) return response
  const answer = (await response.json().catch(() => ({}))) as { message?: string; data?: Record<string, unknown> }
  throw new UsageError(answer.message ?? `The server at ${address} answered ${response.status}.`, answer.data)
}

/** The server that holds a data folder; its cookie says who asks. */
export class Server {
  private cookie = ''
  constructor(private readonly at: Answering) {}

  async ask<T>(path: string, init: RequestInit = {}): Promise<T> {
    const headers = { ...(this.cookie ? { cookie: this.cookie } : {}), ...(init.headers as object) }
    const response = await asked(this.at, path, { ...init, headers })
    this.cookie ||= response.headers.get('set-cookie')?.split(';')[0] ?? ''
    return (await response.json().catch(() => ({}))) as T
  }

  send<T>(path: string, body: object): Promise<T> {
    return this.ask<T>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  }
}

/** Opens the data folder for some work, where no server holds it. */
export async function here<T>(folder: string, work: (estante: Estante) => Promise<T> | T): Promise<T> {
  const estante = await openEstante({
    folder,
    scale: Number(process.env.ESTANTE_SCALE ?? 1),
    ...(process.env.DATABASE_URL ? { databaseUrl: process.env.DATABASE_URL } : {}),
  })
  try {
    return await work(estante)
  } finally {
    await estante.close()
  }
}

/** A file that is to be written, as a path from where somebody stands. @throws UsageError */
export function outFile(out: string): string {
  const file = resolve(process.env.INIT_CWD ?? process.cwd(), out)
  if (!existsSync(dirname(file))) throw new UsageError(`The folder ${dirname(file)} of --out does not exist; make it first.`)
  if (existsSync(file) && statSync(file).isDirectory()) throw new UsageError(`${file} is a folder; name a file with --out.`)
  return file
}

/** Runs through a server into a file; what it counted, and the name of the report. @throws UsageError with its sentence */
export async function orderFile(server: Answering, order: object, file: string): Promise<RunResult & { report: string }> {
  const headers = { 'content-type': 'application/json' }
  const response = await asked(server, '/api/order', { method: 'POST', headers, body: JSON.stringify(order) })
  writeFileSync(file, Buffer.from(await response.arrayBuffer()))
  return JSON.parse(decodeURIComponent(response.headers.get('x-estante-result')!)) as RunResult & { report: string }
}
