import { existsSync, statSync, writeFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import type { RunResult } from '../server/runs/tasks'
import { type Estante, openEstante } from '../server/estante'
import { UsageError } from './usage'

/** The server that holds a data folder; its cookie says who asks. */
export class Server {
  private cookie = ''
  constructor(private readonly address: string) {}

  async ask<T>(path: string, init: RequestInit = {}): Promise<T> {
    const response = await fetch(new URL(path, this.address), {
      ...init,
      headers: { origin: new URL(this.address).origin, ...(this.cookie ? { cookie: this.cookie } : {}), ...(init.headers as object) },
    })
    this.cookie ||= response.headers.get('set-cookie')?.split(';')[0] ?? ''
    const answer = (await response.json().catch(() => ({}))) as T & { message?: string }
    if (!response.ok) throw new UsageError(answer.message ?? `The server at ${this.address} answered ${response.status}.`)
    return answer
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
export async function orderFile(address: string, order: object, file: string): Promise<RunResult & { report: string }> {
  const response = await fetch(new URL('/api/order', address), {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: new URL(address).origin },
    body: JSON.stringify(order),
  })
  if (!response.ok) {
    const answer = (await response.json().catch(() => ({}))) as { message?: string }
    throw new UsageError(answer.message ?? `The server at ${address} answered ${response.status}.`)
  }
  writeFileSync(file, Buffer.from(await response.arrayBuffer()))
  return JSON.parse(decodeURIComponent(response.headers.get('x-estante-result')!)) as RunResult & { report: string }
}
