import { randomUUID } from 'node:crypto'
import { setMaxListeners } from 'node:events'
import type { H3Event } from 'h3'
import { OutputError } from '../../core/api/outputs'
import { readRequest, type RequestBody, RequestError, type requests } from '../../core/api/requests'
import { DefinitionError } from '../../core/definition/schema'
import { FormulaError } from '../../core/formula/syntax'
import { SqlTextError } from '../../core/sql/authored'
import { PlanError } from '../../core/sql/query'
import type { Context } from '../access/context'
import type { Person, Role, Team } from '../../core/api/people'
import { isFor, need } from '../access/need'
import { may, rightOf } from '../access/rights'
import { longestTime } from '../access/sessions'
import { dataFolder, type Estante, openEstante } from '../estante'
import { PackError } from '../../core/pack/definition'
import { machineSentence } from '../failures'
import { checkText, SentError } from '../../core/value/checking'
import { RunError } from '../runs/input'
import { jsonOf, TooLargeError } from './body'
import { namedOrigin } from './place'
import { SourceError } from '../sources/contract'
import { ConflictError, StoreError } from '../store/records'

let opened: Promise<Estante> | undefined

/** The one Estante of this server. */
export function estante(): Promise<Estante> {
  return (opened ??= openEstante({
    folder: dataFolder(),
    scale: Number(process.env.ESTANTE_SCALE ?? 1),
    impatient: true,
    watch: true,
    // tests and measurements of the demo do without its people; a folder of one's own never has any
    people: process.env.ESTANTE_PEOPLE !== 'none',
    ...(process.env.DATABASE_URL ? { databaseUrl: process.env.DATABASE_URL } : {}),
  }))
}

/** A route: calls one function for whoever asks, and turns what goes wrong into an answer of one sentence. */
export function route<T>(work: (context: Context, event: H3Event, app: Estante) => Promise<T> | T) {
  return defineEventHandler(async event => {
    try {
      const app = await estante()
      return await work(await contextOf(event, app), event, app)
    } catch (error) {
      // whoever asked is gone: nobody is told, and nothing went wrong
      if (event.node.res.closed) return null
      const { status, message, data } = described(error)
      setResponseStatus(event, status)
      // names that somebody sent may be longer than any sentence
      return { message: message.replace(/“([^”]{120})[^”]*”/gu, '“$1…”').slice(0, 3000), ...data }
    }
  })
}

const visitorCookie = 'estante-visitor'
/** Cookies are shared by all ports of a host: the data folder tells servers apart. */
const sessionCookie = (app: Estante) => `estante-session-${app.instance}`
const cookieLooks = (event: H3Event) =>
  ({ httpOnly: true, sameSite: 'strict', path: '/', ...(originOf(event).startsWith('https://') ? { secure: true } : {}) }) as const

/** The token of the session that a request belongs to. */
export const tokenOf = (event: H3Event, app: Estante): string => getCookie(event, sessionCookie(app)) ?? ''

/** From here on the browser is signed in with a token; with none, it is not any more. */
export function takeToken(event: H3Event, app: Estante, token: string | undefined): void {
  if (token === undefined) deleteCookie(event, sessionCookie(app), cookieLooks(event))
  else setCookie(event, sessionCookie(app), token, { ...cookieLooks(event), maxAge: longestTime / 1000 })
}

/** What a browser has to bring back from the provider that signs somebody in: a lax cookie, since another site leads back. */
const underwayCookie = (app: Estante) => `estante-underway-${app.instance}`
const underwayLooks = (event: H3Event) => ({ ...cookieLooks(event), sameSite: 'lax', path: '/oidc' }) as const
export const underwayOf = (event: H3Event, app: Estante): string => getCookie(event, underwayCookie(app)) ?? ''
export function takeUnderway(event: H3Event, app: Estante, value: string | undefined): void {
  if (value === undefined) deleteCookie(event, underwayCookie(app), underwayLooks(event))
  else setCookie(event, underwayCookie(app), value, { ...underwayLooks(event), maxAge: 600 })
}

/** A page that leads on to another of ours: what it asks for is asked by us. */
export function leadOn(event: H3Event, to: string): string {
  setResponseHeader(event, 'content-type', 'text/html; charset=utf-8')
  setResponseHeader(event, 'content-security-policy', "default-src 'none'")
  setResponseHeader(event, 'cache-control', 'no-store')
  const place = to.replace(/[&"'<>]/g, each => `&#${each.charCodeAt(0)};`)
  return `<!doctype html><meta charset="utf-8"><meta http-equiv="refresh" content="0;url=${place}"><title>Estante</title>`
}

/**
 * Who asks, where the right that the route needs is theirs. As long as nobody can sign in, whoever sits at this machine may do everything:
 * a browser is somebody then, by a cookie that tells browsers apart and nothing else.
 * @throws StoreError
 */
async function contextOf(event: H3Event, app: Estante): Promise<Context> {
  const right = rightOf(event.method, event.context.matchedRoute?.path ?? '')
  if (right === undefined) throw new StoreError('There is nothing at this address of Estante; copy it whole.', 404)
  const stop = new AbortController()
  // one request may ask a source many times at once; each takes its listener off again
  setMaxListeners(0, stop.signal)
  event.node.res.on('close', () => {
    if (!event.node.res.writableFinished) stop.abort(new Error('The reader went away.'))
  })
  const around = { task: event.path.split('?')[0]!, signal: stop.signal }
  if (await app.people.any()) {
    const signedIn = await whoAsks(event, app)
    if (may(signedIn?.role, right)) {
      const context: Context = { person: signedIn?.id ?? 'nobody', ...(signedIn ? { signedIn } : {}), ...around }
      if (/^\/api\/reports\/:id(\/|$)/.test(event.context.matchedRoute?.path ?? ''))
        await app.store.needReport(context, partOf(event, 'id'), right === 'reader' ? 'run' : 'edit')
      const as = await askedAs(event, app, context)
      return as ? { ...context, as } : context
    }
    if (!signedIn) throw new StoreError('You are not signed in, or your session has ended; sign in.', 401)
    throw isFor(right as Role)
  }
  // a folder of one's own is closed until somebody is there; the command line of whoever can read it comes first
  if ((!app.comesWithDemo || namedOrigin()) && right !== 'anyone' && !app.isOwnKey(getRequestHeader(event, 'authorization')))
    throw new StoreError('Nobody is here yet: open the link for the first administrator, which stands where Estante was started.', 401)
  let person = getCookie(event, visitorCookie)
  if (!person || !/^[\w-]{8,64}$/.test(person)) {
    person = randomUUID()
    setCookie(event, visitorCookie, person, cookieLooks(event))
  }
  return { person, ...around }
}

/** The team as which an author wants to see something: they see less by it, never more. @throws StoreError */
async function askedAs(event: H3Event, app: Estante, context: Context): Promise<Team | undefined> {
  const id = getRequestHeader(event, 'x-estante-as')
  if (id === undefined) return undefined
  need(context, 'author')
  const team = await app.store.teams.find(context, id)
  if (!team) throw new StoreError('The team as which you looked is not here any more; look as yourself again.', 409)
  return team
}

/** Who asks, by a key or token that the request brings, else by the session of the browser. */
function whoAsks(event: H3Event, app: Estante): Promise<Person | undefined> | Person {
  const header = getRequestHeader(event, 'authorization')
  if (header === undefined) return app.people.sessions.personOf(tokenOf(event, app))
  if (app.isOwnKey(header)) return commandLine
  return app.people.tokens.personOf(/^Bearer (\S+)$/.exec(header)?.[1] ?? '')
}

/** Who can read the data folder may do everything: the command line says so with a key that stands there. */
const commandLine: Person = { id: 'command line', name: 'Command line', signIn: '', role: 'administrator', teams: [] }

function described(error: unknown): { status: number; message: string; data?: object } {
  if (error instanceof ConflictError) return { status: 409, message: error.message, data: { current: error.current, kept: error.kept } }
  if (error instanceof StoreError) return { status: error.status, message: error.message }
  if (error instanceof TooLargeError) return { status: 413, message: error.message }
  if (error instanceof RequestError) return { status: 400, message: error.message }
  if (error instanceof SentError) return { status: 400, message: `The address ${error.message}` }
  if (error instanceof RunError) return { status: 422, message: error.message, data: { sentences: error.sentences } }
  if ([DefinitionError, PackError, SourceError, OutputError, PlanError, SqlTextError, FormulaError].some(kind => error instanceof kind))
    return { status: 422, message: (error as Error).message }
  const { message = '', statusCode } = (error ?? {}) as Error & { statusCode?: number }
  const machine = machineSentence(error)
  if (machine) return { status: 507, message: machine }
  if (statusCode && statusCode < 500) return { status: statusCode, message: message.replace(/\.?$/, '.') }
  // a fault of ours: what it says is for whoever looks after the program, and may hold what somebody wrote
  console.error(error)
  return { status: 500, message: 'Estante could not do this, by a fault of its own; try again, and tell whoever looks after it.' }
}

/** The checked body of a request. @throws RequestError */
export async function bodyOf<K extends keyof typeof requests>(event: H3Event, kind: K): Promise<RequestBody<K>> {
  return readRequest(kind, await jsonOf(event))
}

/** A part of the address, as it was before it was put there. @throws RequestError */
export function partOf(event: H3Event, name: string): string {
  let part: string
  try {
    part = decodeURIComponent(getRouterParam(event, name) ?? '')
  } catch {
    throw new RequestError('The address is not written as addresses are; copy it whole.')
  }
  checkText(part)
  return part
}

/** What stands behind the ? of an address: each word once, as text. @throws RequestError */
export function askedOf(event: H3Event): Record<string, string | undefined> {
  const found: Record<string, string | undefined> = Object.create(null) as Record<string, string | undefined>
  for (const [name, value] of Object.entries(getQuery(event))) {
    if (typeof value === 'object') throw new RequestError(`“${name.slice(0, 40)}” stands in the address more than once; say it once.`)
    const text = value === undefined || value === null ? '' : String(value)
    checkText(text)
    found[name] = text
  }
  return found
}

/** A whole number that an address brings. @throws RequestError */
export function wholeOf(text: string | undefined, name: string, otherwise: number): number {
  if (text === undefined || text === '') return otherwise
  if (!/^\d{1,9}$/.test(text)) throw new RequestError(`“${text.slice(0, 40)}” is no whole number for ${name}.`)
  return Number(text)
}
