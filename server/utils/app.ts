import type { H3Event } from 'h3'
import { DefinitionError } from '../../core/definition/schema'
import { type Estante, dataFolder, openEstante } from '../estante'
import { RunError } from '../runs/execute'
import { OutputError } from '../runs/output'
import { SourceError } from '../sources/engine'
import { ConflictError, StoreError } from '../store/store'

let opened: Promise<Estante> | undefined

/** The one Estante of this server. */
export function estante(): Promise<Estante> {
  return (opened ??= openEstante({
    folder: dataFolder(),
    scale: Number(process.env.ESTANTE_SCALE ?? 1),
    ...(process.env.DATABASE_URL ? { databaseUrl: process.env.DATABASE_URL } : {}),
  }))
}

/** A route: calls one function and turns what goes wrong into an answer of one sentence. */
export function route<T>(work: (event: H3Event, app: Estante) => Promise<T> | T) {
  return defineEventHandler(async event => {
    try {
      return await work(event, await estante())
    } catch (error) {
      // whoever asked is gone: nobody is told, and nothing went wrong
      if (event.node.res.closed) return null
      const { status, message, data } = described(error)
      setResponseStatus(event, status)
      return { message, ...data }
    }
  })
}

function described(error: unknown): { status: number; message: string; data?: object } {
  if (error instanceof ConflictError) return { status: 409, message: error.message, data: { current: error.current, kept: error.kept } }
  if (error instanceof StoreError) return { status: error.status, message: error.message }
  if (error instanceof OutputError) return { status: 422, message: error.message }
  if (error instanceof RunError) return { status: 422, message: error.message, data: { sentences: error.sentences } }
  if (error instanceof DefinitionError || error instanceof SourceError) return { status: 422, message: error.message }
  const { code, message, statusCode } = error as NodeJS.ErrnoException & { statusCode?: number }
  if (code === 'ENOSPC') return { status: 507, message: 'The disk of the data folder is full; free some space and try again.' }
  if (statusCode && statusCode < 500) return { status: statusCode, message: message.replace(/\.?$/, '.') }
  console.error(error)
  return { status: 500, message: `Estante could not do this: ${message ?? String(error)}` }
}

/** The JSON body of a request. @throws an error with status 400 and a sentence */
export async function jsonBody<T>(event: H3Event, check: (body: T) => boolean): Promise<T> {
  const body = await readBody<T>(event).catch(() => undefined)
  if (!body || typeof body !== 'object' || !check(body)) throw createError({ statusCode: 400, message: 'The request is not complete.' })
  return body
}

export const isAnswers = (value: unknown): value is Record<string, string> =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && Object.values(value).every(each => typeof each === 'string')
