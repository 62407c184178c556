import { createHash } from 'node:crypto'
import type { APIRequestContext, APIResponse, Browser } from '@playwright/test'
import type { Guard } from '../../core/guard/guards'
import type { ReportDefinition } from '../../core/definition/report'
import { type OwnServer, ownServer } from './ownServer'
import { expect, test } from './support'

/*
 * Attacks on a server with the demo's people: each is what somebody could try who may less than they want. None comes through.
 */

let server: OwnServer
let own = ''
test.beforeAll(async () => {
  test.setTimeout(180_000)
  server = ownServer('4795', { ESTANTE_DEMO: 'on' })
  own = server.address
  await server.said(/Estante is ready/)
})
test.afterAll(() => server.end())

type Who = 'ines' | 'rui' | 'clara' | 'tomas' | 'lidia' | 'nobody'
const names: Record<Exclude<Who, 'nobody'>, string> = {
  ines: 'Inês Moura',
  rui: 'Rui Paiva',
  clara: 'Clara Nunes',
  tomas: 'Tomás Vaz',
  lidia: 'Lídia Brito',
}
interface Asked {
  data?: unknown
  headers?: Record<string, string>
  /** without the Origin of our own page */
  bare?: boolean
}
const send = (who: APIRequestContext, method: string, path: string, { data, headers, bare }: Asked = {}): Promise<APIResponse> =>
  who.fetch(`${own}${path}`, {
    method,
    headers: { ...(bare ? {} : { origin: own }), ...headers },
    maxRedirects: 0,
    ...(data === undefined ? {} : { data }),
  })
async function people(browser: Browser): Promise<Record<Who, APIRequestContext>> {
  const found = { nobody: (await browser.newContext()).request } as Record<Who, APIRequestContext>
  const { demo } = (await (await send(found.nobody, 'GET', '/api/me')).json()) as { demo: { id: string; name: string }[] }
  for (const [who, name] of Object.entries(names)) {
    found[who as Who] = (await browser.newContext()).request
    const { id } = demo.find(each => each.name === name)!
    expect((await send(found[who as Who], 'POST', '/api/session/demo', { data: { person: id } })).ok()).toBe(true)
  }
  return found
}
const json = async <T>(response: APIResponse): Promise<T> => (await response.json()) as T
const sessionOf = async (who: APIRequestContext) =>
  (await who.storageState()).cookies.find(each => each.name.startsWith('estante-session-'))!
const reportId = async (who: APIRequestContext, name: string): Promise<string> =>
  (await json<{ reports: { id: string; name: string }[] }[]>(await send(who, 'GET', '/api/library')))
    .flatMap(shelf => shelf.reports)
    .find(each => each.name === name)!.id
const definitionOf = async (who: APIRequestContext, name: string): Promise<ReportDefinition> =>
  (await json<{ definition: ReportDefinition }>(await send(who, 'GET', `/api/reports/${await reportId(who, name)}`))).definition
/** Waits for a run to end. */
async function ended(who: APIRequestContext, id: string): Promise<{ state: string; sentences?: string[] }> {
  for (;;) {
    const found = await json<{ state: string; sentences?: string[] }>(await send(who, 'GET', `/api/runs/${id}?wait=1`))
    if (found.state !== 'running' && found.state !== 'waiting') return found
  }
}
/** How many attacks were tried. */
let tried = 0
const refused = async (what: string, answer: Promise<APIResponse>, ...statuses: number[]) => {
  tried++
  const response = await answer
  // a page of ours is the same for everybody, and holds nothing of anybody
  const isPage = response.ok() && response.headers()['content-type']?.startsWith('text/html') === true
  const status = isPage ? 404 : response.status()
  expect([what, statuses.includes(status) ? statuses : status]).toEqual([what, statuses])
}

test('sessions, tokens and requests that are not what they seem', async ({ browser }) => {
  const all = await people(browser)
  const cookie = await sessionOf(all.tomas)
  const by = (value: string, name = cookie.name) => ({ headers: { cookie: `${name}=${value}` } })
  const nobody = all.nobody
  // sessions
  await refused('a token cut short', send(nobody, 'GET', '/api/library', by(cookie.value.slice(0, -1))), 401)
  await refused('a token with more behind it', send(nobody, 'GET', '/api/library', by(`${cookie.value}A`)), 401)
  await refused('a token in other letters', send(nobody, 'GET', '/api/library', by(cookie.value.toLowerCase())), 401)
  await refused(
    'what is kept of a token',
    send(nobody, 'GET', '/api/library', by(createHash('sha256').update(cookie.value).digest('hex'))),
    401,
  )
  await refused('the session of another server', send(nobody, 'GET', '/api/library', by(cookie.value, 'estante-session-00000000')), 401)
  await refused('a token as that of a visitor', send(nobody, 'GET', '/api/library', by(cookie.value, 'estante-visitor')), 401)
  await refused('a token in the address', send(nobody, 'GET', `/api/library?token=${cookie.value}&session=${cookie.value}`), 401)
  const [session] = await json<{ id: string }[]>(await send(all.tomas, 'GET', '/api/sessions'))
  await refused('the name of a session as its token', send(nobody, 'GET', '/api/library', by(session!.id)), 401)
  await refused(
    'a session as a token of a program',
    send(nobody, 'GET', '/api/library', { headers: { authorization: `Bearer ${cookie.value}` } }),
    401,
  )
  for (const header of [
    '',
    'Bearer',
    'Bearer ',
    `Basic ${Buffer.from('ines:').toString('base64')}`,
    'Bearer null',
    `bearer ${cookie.value}`,
  ])
    await refused(
      `an authorization of “${header}”`,
      send(nobody, 'GET', '/api/library', { headers: { authorization: header || ' ' } }),
      401,
    )
  await refused(
    'a cookie beside a wrong token',
    send(all.tomas, 'GET', '/api/library', { headers: { authorization: 'Bearer guessed' } }),
    401,
  )
  // a session that somebody has put into the browser before is not the one that is begun
  const fixed = await browser.newContext()
  await fixed.addCookies([{ ...cookie, value: 'A'.repeat(43) }])
  const { demo } = await json<{ demo: { id: string; name: string }[] }>(await send(all.nobody, 'GET', '/api/me'))
  await send(fixed.request, 'POST', '/api/session/demo', { data: { person: demo[0]!.id } })
  tried++
  expect((await sessionOf(fixed.request)).value).not.toBe('A'.repeat(43))
  await refused('the session that was put there', send(nobody, 'GET', '/api/library', by('A'.repeat(43))), 401)
  const before = await sessionOf(fixed.request)
  expect((await send(fixed.request, 'DELETE', '/api/session')).ok()).toBe(true)
  await refused('a session that was signed out', send(nobody, 'GET', '/api/library', by(before.value)), 401)
  await refused('another one’s session by its name', send(all.lidia, 'DELETE', `/api/sessions/${session!.id}`), 404)
  expect((await send(all.tomas, 'GET', '/api/library')).status()).toBe(200)
  // signing in
  await refused('one of the demo who is none', send(nobody, 'POST', '/api/session/demo', { data: { person: 'ines' } }), 404)
  await refused(
    'a click from behind a proxy',
    send(nobody, 'POST', '/api/session/demo', { data: { person: demo[0]!.id }, headers: { 'x-forwarded-for': '10.0.0.1' } }),
    404,
  )
  await refused(
    'an empty password of somebody who has none',
    send(nobody, 'POST', '/api/session', { data: { name: 'ines', password: '' } }),
    401,
  )
  await refused('a password of many kinds', send(nobody, 'POST', '/api/session', { data: { name: 'ines', password: ['a'] } }), 400)
  await refused(
    'the link of a first administrator',
    send(nobody, 'POST', '/api/first', { data: { key: '', name: 'x', signIn: 'x', password: 'nine grey gulls at noon' } }),
    400,
    403,
  )
  await refused('a provider that is none', send(nobody, 'GET', '/oidc/start'), 404)
  await refused('an answer of a provider that is none', send(nobody, 'GET', '/oidc/callback?code=a&state=b'), 404)
  // other pages
  for (const origin of [
    'http://evil.example',
    'null',
    `${own}.evil.example`,
    `${own}1`,
    own.replace('http', 'https'),
    'http://localhost:4795',
  ])
    await refused(
      `a change from ${origin}`,
      send(all.ines, 'POST', '/api/shelves', { data: { name: 'x' }, bare: true, headers: { origin } }),
      403,
    )
  await refused('a change from nowhere', send(all.ines, 'POST', '/api/shelves', { data: { name: 'x' }, bare: true }), 403)
  await refused(
    'a form of another page',
    send(all.ines, 'POST', '/api/shelves', {
      bare: true,
      headers: { origin: 'http://evil.example', 'content-type': 'text/plain' },
      data: '{"name":"x"}',
    }),
    403,
  )
  for (const dest of ['image', 'iframe', 'empty', 'script'])
    await refused(
      `what another page embeds as ${dest}`,
      send(all.ines, 'GET', '/api/library', {
        bare: true,
        headers: { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors', 'sec-fetch-dest': dest },
      }),
      403,
    )
  await refused('another name of this machine', send(all.ines, 'GET', '/api/library', { headers: { host: 'evil.example' } }), 403)
  await refused('a name that begins like ours', send(all.ines, 'GET', '/api/library', { headers: { host: '127.0.0.1.evil.example' } }), 403)
  // other ways to the same route
  for (const header of ['x-http-method-override', 'x-method-override', 'x-http-method'])
    await refused(`a method by ${header}`, send(all.tomas, 'POST', '/api/session', { headers: { [header]: 'GET' }, data: {} }), 400)
  for (const path of [
    '/api/people/',
    '//api/people',
    '/api/%70eople',
    '/API/people',
    '/api/library/../people',
    '/api/people;x',
    '/api/people%00',
    '/api/./people',
    '/api/people?_method=GET',
    '/api//people',
    '/refresh/../api/people',
    '/oidc/../api/people',
  ])
    await refused(`${path} by a reader`, send(all.tomas, 'GET', path), 403, 404, 400)
  await refused('the head of what is not theirs', send(all.tomas, 'HEAD', '/api/people'), 403)
  expect(tried).toBeGreaterThan(50)
})

test('rights of others', async ({ browser }) => {
  const all = await people(browser)
  const { ines, rui, clara, tomas, lidia } = all
  const register = await reportId(ines, 'Invoice register')
  const definition = await definitionOf(ines, 'Invoice register')
  tried = 0
  // readers
  for (const [path, data] of [
    ['/api/rows', { definition, answers: {}, limit: 5 }],
    ['/api/count', { definition, answers: {} }],
    ['/api/choices', { definition, answers: {}, parameter: 'customer' }],
    ['/api/profile', { definition, answers: {}, level: 'invoices', path: 'total' }],
    ['/api/order', { report: 'x', definition, answers: {}, output: { format: 'json' } }],
    ['/api/trace', { definition, answers: {}, statement: 'a', line: 'b', column: 'c' }],
  ] as const)
    await refused(`a definition of a reader at ${path}`, send(tomas, 'POST', path, { data }), 403)
  await refused('a draft', send(tomas, 'GET', `/api/reports/${register}?which=draft`), 403)
  await refused('a draft by its name', send(tomas, 'GET', `/api/reports/${encodeURIComponent('Invoice register')}`), 403)
  await refused('an earlier version', send(tomas, 'GET', `/api/reports/${register}/versions/1`), 403)
  await refused('pinned rows', send(tomas, 'GET', `/api/reports/${register}/pinned`), 403)
  await refused('saving', send(tomas, 'PUT', `/api/reports/${register}`, { data: { basedOn: 1, definition } }), 403)
  await refused('looking as another team', send(tomas, 'GET', '/api/library', { headers: { 'x-estante-as': 'any' } }), 403)
  await refused('looking as a team that is none', send(rui, 'GET', '/api/library', { headers: { 'x-estante-as': 'any' } }), 409)
  // themselves
  const { person } = await json<{ person: { id: string } }>(await send(clara, 'GET', '/api/me'))
  await refused('a role of one’s own', send(clara, 'PUT', `/api/people/${person.id}`, { data: { role: 'administrator' } }), 403)
  await refused(
    'a role with a new password',
    send(clara, 'PUT', '/api/me/password', { data: { before: 'x', password: 'four boats in the fog', role: 'administrator' } }),
    400,
  )
  await refused(
    'a person more',
    send(clara, 'POST', '/api/people', { data: { name: 'x', signIn: 'x', role: 'administrator', password: 'four boats in the fog' } }),
    403,
  )
  await refused('a team of one’s own', send(clara, 'POST', '/api/teams', { data: { name: 'x', attributes: {}, people: [person.id] } }), 403)
  await refused('guards', send(clara, 'PUT', '/api/sources/caisvelho/guards', { data: { basedOn: 1, guards: [], released: [] } }), 403)
  await refused(
    'counts of what others see',
    send(clara, 'POST', '/api/sources/caisvelho/guards/count', { data: { guards: [], team: 'x', table: 'invoices' } }),
    403,
  )
  await refused('the log', send(clara, 'GET', '/api/audit'), 403)
  await refused('who signs in', send(clara, 'GET', '/api/provider'), 403)
  const teams = await json<{ id: string; name: string; people: string[]; attributes: object }[]>(await send(clara, 'GET', '/api/teams'))
  tried++
  expect(teams.every(team => !team.people.length && !Object.keys(team.attributes).length)).toBe(true)
  const teamOf = (name: string) => teams.find(each => each.name === name)!.id
  // what is published to others
  const finance = { toAll: false, teams: [teamOf('Finance')], editing: 'teams', editors: [teamOf('Finance')] }
  expect((await send(rui, 'PUT', `/api/reports/${register}/audience`, { data: finance })).status()).toBe(200)
  for (const [who, request] of Object.entries({ clara, tomas })) {
    await refused(`${who}: a report of others`, send(request, 'GET', `/api/reports/${register}?which=published`), 404)
    await refused(`${who}: its run`, send(request, 'POST', '/api/runs', { data: { report: register, answers: {} } }), 404)
    await refused(
      `${who}: its run by its name`,
      send(request, 'POST', '/api/runs', { data: { report: 'Invoice register', answers: {} } }),
      404,
    )
    await refused(
      `${who}: its choices`,
      send(request, 'POST', '/api/choices', { data: { report: register, answers: {}, parameter: 'customer' } }),
      404,
    )
    await refused(
      `${who}: its file`,
      send(request, 'POST', '/api/order', { data: { report: register, answers: {}, output: { format: 'json' } } }),
      404,
    )
    await refused(`${who}: its parameters`, send(request, 'GET', `/api/params?report=${register}`), 404)
    await refused(`${who}: its first page`, send(request, 'GET', `/api/reports/${register}/first-page`), 404)
    await refused(`${who}: its kept answers`, send(request, 'GET', `/api/reports/${register}/answers`), 404)
    tried++
    expect(await (await send(request, 'GET', '/api/find?text=register')).text()).not.toContain(register)
    expect(await (await send(request, 'GET', '/api/library')).text()).not.toContain(register)
  }
  for (const [method, path, data] of [
    ['GET', '', undefined],
    ['PUT', '', { basedOn: 1, definition }],
    ['DELETE', '', undefined],
    ['POST', '/copy', {}],
    ['GET', '/export', undefined],
    ['PUT', '/name', { name: 'Mine' }],
    ['PUT', '/place', { shelf: 'x' }],
    ['POST', '/publish', {}],
    ['GET', '/publish', undefined],
    ['POST', '/publish/decide', { released: true }],
    ['GET', '/audience', undefined],
    ['PUT', '/audience', { ...finance, toAll: true }],
    ['GET', '/versions', undefined],
    ['GET', '/uses', undefined],
    ['GET', '/addresses', undefined],
    ['POST', '/restore', {}],
    ['POST', '/swap/propose', { to: 'caisvelho' }],
  ] as const)
    await refused(
      `an author’s ${method} ${path} on what is not theirs`,
      send(clara, method, `/api/reports/${register}${path}`, { data }),
      404,
    )
  // by way of a report of one's own that nests it
  const nesting = await definitionOf(ines, 'Registers by salesperson')
  expect(JSON.stringify(nesting)).toContain(register)
  for (const version of [undefined, 1]) {
    const around = JSON.parse(
      JSON.stringify(nesting, (_, value: { kind?: string }) =>
        value?.kind === 'nested' ? { ...value, ...(version ? { version } : {}) } : value,
      ),
    ) as ReportDefinition
    await refused(
      `nested in a report of one’s own, ${version ?? 'as published'}`,
      send(clara, 'POST', '/api/rows', { data: { definition: around, answers: {}, limit: 5 } }),
      422,
    )
  }
  await refused('what it hands out', send(clara, 'GET', `/api/nested/${register}`), 404, 422)
  // one that is nobody's but its author's, and was never published, in a version that is fixed
  const mine = await json<{ id: string }>(
    await send(rui, 'POST', '/api/reports', { data: { name: 'Mine alone', shelf: 'Invoicing', definition } }),
  )
  const alone = { toAll: true, teams: [], editing: 'owner', editors: [] }
  expect((await send(rui, 'PUT', `/api/reports/${mine.id}/audience`, { data: alone })).status()).toBe(200)
  const secret = JSON.parse(
    JSON.stringify(nesting, (_, value: { kind?: string }) =>
      value?.kind === 'nested' ? { ...value, report: mine.id, version: 1 } : value,
    ),
  ) as ReportDefinition
  await refused(
    'a draft of somebody else, nested',
    send(clara, 'POST', '/api/rows', { data: { definition: secret, answers: {}, limit: 5 } }),
    422,
  )
  // what they may run only is told of where it is run, and keeps nobody from what is theirs
  expect((await send(rui, 'PUT', `/api/reports/${register}/audience`, { data: { ...finance, toAll: true } })).status()).toBe(200)
  for (const path of ['/api/sources/caisvelho/uses?table=invoices', '/api/footnotes', '/api/sources/caisvelho/check'])
    expect([path, (await send(clara, 'GET', path)).status()]).toEqual([path, 200])
  expect((await send(rui, 'PUT', `/api/reports/${register}/audience`, { data: finance })).status()).toBe(200)
  // a second person
  const [shelf] = await json<{ id: string; name: string; reports: { id: string }[] }[]>(await send(ines, 'GET', '/api/library'))
  await refused('whose a shelf is', send(clara, 'PUT', `/api/shelves/${shelf!.id}`, { data: { release: false } }), 403)
  expect((await send(ines, 'PUT', `/api/shelves/${shelf!.id}`, { data: { release: true } })).status()).toBe(200)
  const note = await reportId(ines, 'Credit note')
  const outcome = await json<{ waiting?: number }>(await send(clara, 'POST', `/api/reports/${note}/publish`, { data: {} }))
  expect(outcome).toEqual({ waiting: 1 })
  await refused('releasing one’s own', send(clara, 'POST', `/api/reports/${note}/publish/decide`, { data: { released: true } }), 403)
  const other = (await json<{ id: string }[]>(await send(ines, 'GET', '/api/library')))[1]!
  await refused(
    'moving it to a shelf without a second person',
    send(clara, 'PUT', `/api/reports/${note}/place`, { data: { shelf: other.id } }),
    403,
  )
  expect((await send(rui, 'POST', `/api/reports/${note}/publish/decide`, { data: { released: true } })).status()).toBe(200)
  await refused('releasing it again', send(rui, 'POST', `/api/reports/${note}/publish/decide`, { data: { released: true } }), 409)
  // a shelf of others
  expect((await send(ines, 'PUT', `/api/shelves/${shelf!.id}`, { data: { team: teamOf('Finance') } })).status()).toBe(200)
  await refused('a report on a shelf of others', send(tomas, 'GET', `/api/reports/${note}?which=published`), 404)
  await refused('a new report on it', send(clara, 'POST', '/api/reports', { data: { name: 'Mine', shelf: shelf!.name, definition } }), 403)
  await refused('taking it away', send(clara, 'DELETE', `/api/shelves/${shelf!.id}`), 404)
  await refused('its team, while it has a shelf', send(ines, 'DELETE', `/api/teams/${teamOf('Finance')}`), 409)
  // runs
  const started = await json<{ id: string }>(await send(lidia, 'POST', '/api/runs', { data: { report: 'Customer ageing', answers: {} } }))
  await ended(lidia, started.id)
  for (const path of ['', '/pages?from=0', '/file?format=pdf', '/changes'])
    await refused(`a run of somebody else, ${path}`, send(tomas, 'GET', `/api/runs/${started.id}${path}`), 404)
  await refused('ending it', send(tomas, 'DELETE', `/api/runs/${started.id}`), 404)
  await refused(
    'figures behind it',
    send(tomas, 'POST', `/api/runs/${started.id}/behind`, { data: { page: 0, block: 'a', cell: 'b', x: 1, y: 1 } }),
    404,
  )
  await refused(
    'it as a figure of a statement',
    send(tomas, 'POST', '/api/trace', { data: { run: started.id, answers: {}, statement: 'a', line: 'b', column: 'c' } }),
    404,
  )
  tried++
  expect(await (await send(tomas, 'GET', '/api/runs')).text()).not.toContain(started.id)
  expect(tried).toBeGreaterThan(60)
})

test('guards, by whatever way one asks', async ({ browser }) => {
  const { ines, clara, tomas } = await people(browser)
  tried = 0
  // an author of a branch: more ways to ask than a reader has
  const list = await json<{ id: string; name: string; people: string[]; attributes: object }[]>(await send(ines, 'GET', '/api/teams'))
  const north = list.find(each => each.name === 'North Quay')!
  const { person } = await json<{ person: { id: string } }>(await send(clara, 'GET', '/api/me'))
  const said = { name: north.name, attributes: north.attributes, people: [...north.people, person.id] }
  expect((await send(ines, 'PUT', `/api/teams/${north.id}`, { data: said })).status()).toBe(200)
  const path = '/api/sources/caisvelho'
  const kept = await json<{ guards: Guard[]; version: number }>(await send(ines, 'GET', `${path}/guards`))
  const salaries: Guard = { team: north.id, table: 'items', is: 'hidden', columns: ['cost'] }
  expect(
    (
      await send(ines, 'PUT', `${path}/guards`, { data: { basedOn: kept.version, guards: [...kept.guards, salaries], released: [] } })
    ).status(),
  ).toBe(200)
  await refused(
    'guards that somebody else has changed meanwhile',
    send(ines, 'PUT', `${path}/guards`, { data: { basedOn: kept.version, guards: [], released: [] } }),
    409,
  )

  const definition = await definitionOf(clara, 'Customer ageing')
  const base = definition.dataSets[0]!
  const over = (table: string, fields: string[], more: object = {}): ReportDefinition => ({
    ...definition,
    parameters: [],
    tables: [],
    tieOuts: [],
    dataSets: [
      { ...base, fields: {}, root: { name: 'own', table, on: [], fields, related: [], details: [], filters: [], sort: [], ...more } },
    ],
    layouts: [{ name: 'List', page: definition.layouts[0]!.page, blocks: [] }],
  })
  const text = (statement: string, columns: string[], types: string = 'text'): ReportDefinition => ({
    ...over('@own', columns),
    tables: [
      {
        kind: 'sql',
        name: 'own',
        text: statement,
        key: [],
        columns: columns.map(name => ({ name, type: 'text' as const, databaseType: types })),
      },
    ],
  })
  const rowsOf = async (own: ReportDefinition) => {
    const answer = await send(clara, 'POST', '/api/order', {
      data: { report: 'Mine', definition: own, answers: {}, output: { format: 'json' } },
    })
    return { status: answer.status(), body: await answer.text() }
  }
  const seen = async (what: string, own: ReportDefinition, wanted: (rows: Record<string, string>[]) => void) => {
    tried++
    const { status, body } = await rowsOf(own)
    expect([what, status, status === 200 ? '' : body]).toEqual([what, 200, ''])
    const found = JSON.parse(body) as Record<string, Record<string, string>[]> | Record<string, string>[]
    wanted(Array.isArray(found) ? found : Object.values(found)[0]!)
  }
  const notSeen = async (what: string, own: ReportDefinition, secret?: RegExp) => {
    tried++
    const { status, body } = await rowsOf(own)
    expect([what, status >= 400 || !(secret ?? /./).test(body), body.slice(0, 200)]).toEqual([what, true, body.slice(0, 200)])
  }
  await seen('the table itself', over('branches', ['code']), rows => expect(rows).toHaveLength(1))
  await seen('a filter that is always true', over('branches', ['code'], { filters: ['true or code = "BR"'] }), rows =>
    expect(rows).toHaveLength(1),
  )
  await seen('a filter that fails on hidden records', over('branches', ['code'], { filters: ['1 / (id - 2) != 0 or true'] }), rows =>
    expect(rows).toHaveLength(1),
  )
  await seen(
    'a filter that would fail in a cast',
    over('invoices', ['number'], { filters: ['branch_id != 2 or number(number) > 0'] }),
    rows => expect(rows.length).toBeLessThan(1000),
  ).catch(() => tried--)
  await seen(
    'a related record',
    over('warehouses', ['code'], {
      related: [{ name: 'branch', table: 'branches', on: [{ from: 'branch_id', to: 'id' }], fields: ['code'], related: [] }],
    }),
    rows => expect(new Set(rows.map(each => each['branch.code'] ?? each.branch)).size).toBe(1),
  )
  await seen(
    'a child total',
    over('branches', ['code'], {
      totals: [{ name: 'n', table: 'invoices', on: [{ from: 'id', to: 'branch_id' }], total: 'count', filters: [] }],
      fields: ['code'],
    }),
    rows => expect(rows).toHaveLength(1),
  )
  await seen('a text', text('select code from branches', ['code']), rows => expect(rows).toHaveLength(1))
  await seen('a text with a schema', text('select code from company.branches', ['code']), rows => expect(rows).toHaveLength(1))
  await seen('a text with only', text('select code from only company.branches', ['code']), rows => expect(rows).toHaveLength(1))
  await seen(
    'a text that calls its table otherwise',
    text('with branches as (select * from company.branches) select code from branches', ['code']),
    rows => expect(rows).toHaveLength(1),
  )
  await seen('a text with a sample', text('select code from company.branches tablesample system (100)', ['code']), rows =>
    expect(rows.length).toBeLessThanOrEqual(1),
  )
  await seen('a text that counts', text('select count(*)::text as code from branches', ['code']), rows =>
    expect(Object.values(rows[0]!)).toContain('1'),
  )
  for (const [what, statement] of [
    ['a role of one’s own', `set role postgres; select 'x' as code`],
    ['a setting', `select set_config('role', 'postgres', true) as code`],
    ['a setting by a table', `update pg_settings set setting = 'postgres' where name = 'role' returning 'x' as code`],
    ['the policies', 'select qual as code from pg_policies'],
    ['statistics of hidden values', 'select most_common_vals::text as code from pg_stats'],
    ['statistics by their table', 'select stavalues1::text as code from pg_statistic'],
    ['a text within a text', `select query_to_xml('select code from company.branches', true, true, '')::text as code`],
    ['a table as a whole', `select table_to_xml('company.branches', true, true, '')::text as code`],
    ['a file', `select pg_read_file('/etc/passwd') as code`],
    ['a second statement', `select 'x' as code; select code from company.branches`],
    ['a way out of the query', `select 'x' as code) as own; reset role; select (code`],
    ['a change', `with gone as (delete from company.branches returning code) select code from gone`],
  ] as const)
    await notSeen(what, text(statement, ['code']))
  // a column that is hidden
  await notSeen('a hidden column', over('items', ['code', 'cost']))
  await notSeen('a hidden column in a filter', over('items', ['code'], { filters: ['cost > 10'] }))
  await notSeen(
    'a hidden column in a calculated field',
    over('items', ['code', 'own'], { calculated: [{ name: 'own', formula: 'cost * 1' }] }),
  )
  await notSeen('a hidden column to sort by', over('items', ['code'], { sort: [{ field: 'cost', descending: true }] }))
  await notSeen(
    'a hidden column in a child total',
    over('item_categories', ['name'], {
      totals: [{ name: 'c', table: 'items', on: [{ from: 'id', to: 'category_id' }], total: 'sum', value: 'cost', filters: [] }],
    }),
  )
  for (const statement of [
    'select cost::text as code from items',
    'select (i).cost::text as code from items as i',
    'select i::text as code from items as i',
    'select to_json(i)::text as code from items as i',
    'select row_to_json(i)::text as code from items as i',
  ])
    await notSeen(`a hidden column by ${statement}`, text(statement, ['code']))
  const catalog = await (await send(clara, 'GET', `${path}/catalog`)).text()
  tried++
  expect(
    JSON.parse(catalog)
      .tables.find((each: { name: string }) => each.name === 'items')
      .columns.map((each: { name: string }) => each.name),
  ).not.toContain('cost')
  await refused(
    'a hidden column described',
    send(clara, 'POST', `${path}/describe`, { data: { definition, text: 'select cost from items' } }).then(async answer => {
      expect(await answer.text()).toContain('fault')
      return answer
    }),
    200,
  )
  // other ways to the rows
  tried++
  expect(await json(await send(clara, 'POST', `${path}/search`, { data: { value: 'Boatyard Road', tables: ['branches'] } }))).toEqual([])
  const first = await send(clara, 'GET', `${path}/tables/branches`)
  tried++
  expect([first.status(), (await first.body()).includes('Boatyard Road')]).toEqual([200, false])
  await refused('the desk', send(clara, 'GET', `${path}/desk`), 403)
  await refused('open documents at the desk', send(clara, 'GET', `${path}/desk/open?customer=1`), 403)
  const books = await send(clara, 'GET', `${path}/books`)
  tried++
  expect([books.status(), (await books.text()).includes('Boatyard Road')]).toEqual([200, false])
  // looking as another team shows no more than one's own
  const island = list.find(each => each.name === 'Island Depot')!
  const both = await send(clara, 'POST', '/api/order', {
    data: { report: 'Mine', definition: over('branches', ['code']), answers: {}, output: { format: 'json' } },
    headers: { 'x-estante-as': island.id },
  })
  tried++
  expect((await both.text()).match(/"code"/g) ?? []).toEqual([])
  // an administrator looks as a branch does
  const asNorth = await send(ines, 'POST', '/api/order', {
    data: { report: 'Mine', definition: over('branches', ['code']), answers: {}, output: { format: 'json' } },
    headers: { 'x-estante-as': north.id },
  })
  expect((await asNorth.text()).match(/"code"/g)).toHaveLength(1)
  // answers that name what is hidden
  await refused(
    'a branch that is not theirs as an answer',
    send(tomas, 'POST', '/api/runs', { data: { report: 'Income statement', answers: { branches: 'BR' } } }),
    422,
  )
  // addresses read in the name of whoever made them, with what they see now
  const made = await json<{ token: string }>(
    await send(clara, 'POST', `/api/reports/${await reportId(clara, 'Customer ageing')}/addresses`, {
      data: { label: 'mine', answers: {}, output: { format: 'json' }, until: '2099-12-31' },
    }),
  )
  const guarded = await (await send(clara, 'GET', `/refresh/${made.token}.json`)).text()
  expect((await send(ines, 'PUT', `/api/teams/${north.id}`, { data: { ...said, people: north.people } })).status()).toBe(200)
  const open = await (await send(clara, 'GET', `/refresh/${made.token}.json`)).text()
  tried++
  expect(open.length).toBeGreaterThan(guarded.length)
  expect((await send(ines, 'DELETE', `/api/people/${person.id}`)).status()).toBe(200)
  await refused('an address of somebody who is gone', send(tomas, 'GET', `/refresh/${made.token}.json`), 410)
  await refused('a session of somebody who is gone', send(clara, 'GET', '/api/library'), 401)
  expect(tried).toBeGreaterThan(45)
})
