import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { generateKeyPairSync, type KeyObject, sign } from 'node:crypto'
import OidcProvider from 'oidc-provider'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { temporaryFolder, tester } from '../../tests/support'
import { Secrets } from '../store/secrets'
import { Store } from '../store/store'
import { Provider, type ProviderSettings } from './provider'

const back = 'http://127.0.0.1:4780/oidc/callback'
let store: Store
let provider: Provider
beforeAll(async () => {
  const folder = temporaryFolder()
  store = await Store.open({ folder })
  store.secrets = new Secrets(folder)
  provider = new Provider(store.secrets)
})
afterAll(() => store.close())

const listening = (server: Server): Promise<string> =>
  new Promise(resolve => server.listen(0, '127.0.0.1', () => resolve(`http://127.0.0.1:${(server.address() as AddressInfo).port}`)))
const settingsOf = (issuer: string, more: Partial<ProviderSettings> = {}): ProviderSettings => ({
  name: 'Harbour account',
  issuer,
  clientId: 'estante',
  secret: provider.seal('a secret between us'),
  claim: 'groups',
  teams: {},
  adds: false,
  only: false,
  ...more,
})

describe('a real provider on this machine', () => {
  let server: Server
  let issuer = ''
  beforeAll(async () => {
    // the address is known only once something listens there
    let answer: (request: never, response: never) => void = () => {}
    server = createServer((request, response) => answer(request as never, response as never))
    issuer = await listening(server)
    const real = new OidcProvider(issuer, {
      clients: [
        {
          client_id: 'estante',
          client_secret: 'a secret between us',
          redirect_uris: [back],
          post_logout_redirect_uris: ['http://127.0.0.1:4780/sign-in'],
        },
      ],
      claims: { openid: ['sub'], profile: ['name', 'groups'], email: ['email', 'email_verified'] },
      findAccount: (_: unknown, id: string) => ({
        accountId: id,
        claims: () => ({
          sub: id,
          name: `Person ${id}`,
          groups: ['quay', 'others'],
          email: `${id}@caisvelho.example`,
          email_verified: id !== 'unchecked',
        }),
      }),
      features: { devInteractions: { enabled: true } },
      cookies: { keys: ['only for tests'] },
    })
    answer = real.callback() as never
  })
  afterAll(() => new Promise(resolve => server.close(resolve)))

  /** What a browser does: follows the provider's pages, signs in there and agrees, until it is led back. */
  async function through(url: string, login: string): Promise<URL> {
    const jar = new Map<string, string>()
    let next = url
    let body: string | undefined
    for (let step = 0; step < 20; step++) {
      const response: Response = await fetch(next, {
        redirect: 'manual',
        method: body === undefined ? 'GET' : 'POST',
        headers: {
          cookie: [...jar].map(([name, value]) => `${name}=${value}`).join('; '),
          ...(body === undefined ? {} : { 'content-type': 'application/x-www-form-urlencoded' }),
        },
        ...(body === undefined ? {} : { body }),
      })
      body = undefined
      for (const cookie of response.headers.getSetCookie()) {
        const [name, value] = /^([^=]+)=([^;]*)/.exec(cookie)!.slice(1) as [string, string]
        if (value) jar.set(name, value)
        else jar.delete(name)
      }
      const to = response.headers.get('location')
      if (to) {
        next = new URL(to, next).href
        if (next.startsWith(back)) return new URL(next)
        continue
      }
      const page = await response.text()
      const action = /<form[^>]* action="([^"]+)"/.exec(page)?.[1]
      if (!action) throw new Error(page.slice(0, 300))
      next = new URL(action, next).href
      body = page.includes('value="login"') ? `prompt=login&login=${login}&password=any` : 'prompt=consent'
    }
    throw new Error('It leads nowhere.')
  }

  it('signs in a person who is known by the address that it has checked, into the teams of their groups', async () => {
    const team = await store.teams.add(tester, { name: 'Quay', attributes: {}, people: [] })
    const id = await store.people.add(tester, {
      name: 'Rui',
      signIn: 'rui@caisvelho.example',
      role: 'author',
      password: 'nine grey gulls at noon',
    })
    const settings = settingsOf(issuer, { teams: { quay: team } })
    const { url, cookie } = await provider.start(settings, back, '/runs')
    expect(new URL(url).searchParams.get('code_challenge_method')).toBe('S256')
    const { claimed, to } = await provider.finish(settings, await through(url, 'rui'), cookie)
    expect([to, claimed.name, claimed.groups]).toEqual(['/runs', 'Person rui', ['quay', 'others']])
    const token = await store.people.signInProvided(claimed, settings, 'a test')
    expect(await store.people.sessions.personOf(token)).toMatchObject({ id, role: 'author', teams: [{ name: 'Quay' }] })
    // taken out of the group there, they are out of the team here
    await store.people.signInProvided({ ...claimed, groups: [] }, settings, 'a test')
    expect((await store.people.find(id))!.teams).toEqual([])
    expect(await store.people.sessions.end(token)).toBe(true)
    expect(await provider.leave(settings, 'http://127.0.0.1:4780/sign-in')).toContain(`${issuer}/session/end`)
  })
  it('lets in nobody who is not here, unless those are added; an address that it has not checked is nobody’s', async () => {
    await store.people.add(tester, {
      name: 'Boss',
      signIn: 'unchecked@caisvelho.example',
      role: 'administrator',
      password: 'nine grey gulls at noon',
    })
    for (const login of ['stranger', 'unchecked']) {
      const settings = settingsOf(issuer)
      const { url, cookie } = await provider.start(settings, back, '/')
      const { claimed } = await provider.finish(settings, await through(url, login), cookie)
      await expect(store.people.signInProvided(claimed, settings, 'a test')).rejects.toThrow(/not among the people/)
      const token = await store.people.signInProvided(claimed, { ...settings, adds: true }, 'a test')
      expect(await store.people.sessions.personOf(token)).toMatchObject({ role: 'reader', name: `Person ${login}` })
    }
  })
  it('takes an answer once, in the browser that asked for it, and as it was asked for', async () => {
    const settings = settingsOf(issuer)
    const { url, cookie } = await provider.start(settings, back, '/')
    const answer = await through(url, 'rui')
    await expect(provider.finish(settings, answer, '')).rejects.toThrow(/begin it again/)
    await expect(provider.finish(settings, answer, 'x'.repeat(43))).rejects.toThrow(/begin it again/)
    const other = await provider.start(settings, back, '/')
    await expect(provider.finish(settings, answer, other.cookie)).rejects.toThrow(/begin it again/)
    await provider.finish(settings, answer, cookie)
    await expect(provider.finish(settings, answer, cookie)).rejects.toThrow(/begin it again/)
    // a code that was used before is refused by the provider itself, whatever the state says
    const next = await provider.start(settings, back, '/')
    const replayed = new URL(answer)
    replayed.searchParams.set('state', new URL(next.url).searchParams.get('state')!)
    await expect(provider.finish(settings, replayed, next.cookie)).rejects.toThrow(/has not signed you in/)
  })
  it('is not kept where it cannot be reached, or is not on a safe line', async () => {
    await expect(provider.start(settingsOf('http://127.0.0.1:9/'), back, '/')).rejects.toThrow(/cannot be reached/)
    await expect(provider.start(settingsOf('http://sign-in.caisvelho.example'), back, '/')).rejects.toThrow(/begins with https/)
  })
})

describe('a provider that forges', () => {
  const keys = generateKeyPairSync('rsa', { modulusLength: 2048 })
  const strange = generateKeyPairSync('rsa', { modulusLength: 2048 })
  let server: Server
  let issuer = ''
  let nonce = ''
  let forge: (claims: Record<string, unknown>) => { claims: Record<string, unknown>; key?: KeyObject; algorithm?: string } = claims => ({
    claims,
  })
  beforeAll(async () => {
    server = createServer((request, response) => {
      const reply = (body: object) => response.setHeader('content-type', 'application/json').end(JSON.stringify(body))
      if (request.url?.startsWith('/.well-known'))
        return reply({
          issuer,
          authorization_endpoint: `${issuer}/auth`,
          token_endpoint: `${issuer}/token`,
          jwks_uri: `${issuer}/keys`,
          response_types_supported: ['code'],
          subject_types_supported: ['public'],
          id_token_signing_alg_values_supported: ['RS256'],
        })
      if (request.url === '/keys')
        return reply({ keys: [{ ...keys.publicKey.export({ format: 'jwk' }), kid: 'one', use: 'sig', alg: 'RS256' }] })
      const seconds = Math.floor(Date.now() / 1000)
      const {
        claims,
        key = keys.privateKey,
        algorithm = 'RS256',
      } = forge({
        iss: issuer,
        sub: 'boss',
        aud: 'estante',
        nonce,
        iat: seconds,
        exp: seconds + 300,
        email: 'boss@caisvelho.example',
        email_verified: true,
      })
      const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
      const signed = `${part({ alg: algorithm, kid: 'one' })}.${part(claims)}`
      const signature = algorithm === 'none' ? '' : sign('sha256', Buffer.from(signed), key).toString('base64url')
      reply({ access_token: 'any', token_type: 'Bearer', id_token: `${signed}.${signature}` })
    })
    issuer = await listening(server)
  })
  afterAll(() => new Promise(resolve => server.close(resolve)))
  async function outcome(change: typeof forge): Promise<string> {
    forge = change
    const settings = settingsOf(issuer)
    const { url, cookie } = await provider.start(settings, back, '/')
    const asked = new URL(url).searchParams
    nonce = asked.get('nonce')!
    const answer = new URL(`${back}?${new URLSearchParams({ code: 'any', state: asked.get('state')!, iss: issuer })}`)
    return provider.finish(settings, answer, cookie).then(
      ({ claimed }) => `let in ${claimed.subject}`,
      (error: Error) => error.message,
    )
  }
  it('is believed where all is as it should be', async () => {
    expect(await outcome(claims => ({ claims }))).toBe(`let in ${issuer} boss`)
  })
  const now = () => Math.floor(Date.now() / 1000)
  it.each([
    ['another issuer', claims => ({ claims: { ...claims, iss: 'https://other.example' } })],
    ['another audience', claims => ({ claims: { ...claims, aud: 'another program' } })],
    ['another nonce', claims => ({ claims: { ...claims, nonce: 'replayed' } })],
    ['no nonce', ({ nonce: _, ...claims }) => ({ claims })],
    ['a token that is over', claims => ({ claims: { ...claims, exp: now() - 300, iat: now() - 600 } })],
    ['a token of tomorrow', claims => ({ claims: { ...claims, nbf: now() + 3600 } })],
    ['no subject', ({ sub: _, ...claims }) => ({ claims })],
    ['no end', ({ exp: _, ...claims }) => ({ claims })],
    ['the signature of somebody else', claims => ({ claims, key: strange.privateKey })],
    ['no signature', claims => ({ claims, algorithm: 'none' })],
  ] as [string, typeof forge][])('is not believed with %s', async (_, change) => {
    expect(await outcome(change)).toMatch(/^Harbour account has not signed you in/)
  })
})
