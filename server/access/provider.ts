import { array, boolean, lazy, object, string } from 'yup'
import { namesOf } from '../../core/value/checking'
import * as client from 'openid-client'
import { StoreError } from '../store/records'
import type { Secrets } from '../store/secrets'
import { newSecret } from './secrets'
import { sameText } from './sameText'

/** Who signs people in for us (OpenID Connect Core 1.0), as an administrator says it. */
export interface ProviderSettings {
  /** what the button says */
  name: string
  /** its address, under which it describes itself */
  issuer: string
  clientId: string
  /** sealed */
  secret: string
  /** the claim that lists the groups of a person */
  claim: string
  /** ids of our teams by its groups */
  teams: Record<string, string>
  /** whoever it knows and we do not is added as a reader */
  adds: boolean
  /** nobody signs in by password any more */
  only: boolean
}

const text = () => string().strict().required().max(500)
export const providerShape = object({
  name: text().max(60),
  issuer: text(),
  clientId: text(),
  secret: string().strict().max(1000),
  claim: string().strict().defined().max(100),
  teams: lazy((value: unknown) =>
    object(
      Object.fromEntries(
        namesOf(value)
          .slice(0, 500)
          .map(each => [each, text()]),
      ),
    )
      .strict()
      .required(),
  ),
  adds: boolean().strict().required(),
  only: boolean().strict().required(),
}).noUnknown()
export const claimList = array(string().strict().required())

/** Somebody whom the provider has signed in. */
export interface Claimed {
  /** tells them apart for ever: the issuer and its own name for them */
  subject: string
  name: string
  /** a mail address that the provider has checked */
  mail?: string
  groups: string[]
}

/** A sign-in that is under way at the provider. */
interface Underway {
  state: string
  nonce: string
  verifier: string
  to: string
  at: number
}

/** How long one may take, in milliseconds, and how many there are at most. */
const [longest, most] = [10 * 60_000, 5000]
const secretRecord = 'provider'
const loopback = /^http:\/\/(127\.0\.0\.1|localhost|\[::1\])(:\d+)?(\/|$)/

/** Signs people in by way of a provider: discovery, code flow with PKCE, its answer checked against what was asked. */
export class Provider {
  private readonly underway = new Map<string, Underway>()
  private found: { key: string; configuration: Promise<client.Configuration> } | undefined

  constructor(private readonly secrets: Pick<Secrets, 'seal' | 'open'>) {}

  seal(secret: string): string {
    return this.secrets.seal(secretRecord, secret)
  }

  /** What the provider says of itself, asked once. @throws StoreError where it cannot be reached, or is none */
  private configuration(settings: ProviderSettings): Promise<client.Configuration> {
    const key = JSON.stringify(settings)
    if (this.found?.key === key) return this.found.configuration
    const configuration = this.discover(settings)
    this.found = { key, configuration }
    configuration.catch(() => (this.found = undefined))
    return configuration
  }

  private async discover(settings: ProviderSettings): Promise<client.Configuration> {
    const { issuer, clientId, secret } = settings
    const near = loopback.test(issuer)
    if (!near && !issuer.startsWith('https://'))
      throw new StoreError('The address of a provider begins with https://; correct it under People.', 422)
    try {
      const found = await client.discovery(new URL(issuer), clientId, this.secrets.open(secretRecord, secret), undefined, {
        timeout: 10,
        ...(near ? { execute: [client.allowInsecureRequests] } : {}),
      })
      // the token comes by way of the provider itself; its signature is checked all the same
      client.enableNonRepudiationChecks(found)
      return found
    } catch (error) {
      throw new StoreError(
        `${settings.name} cannot be reached to sign you in (${reason(error)}); try again, or tell an administrator.`,
        502,
      )
    }
  }

  /** Where the browser goes to sign in; and what it has to bring back, as a cookie. */
  async start(settings: ProviderSettings, back: string, to: string): Promise<{ url: string; cookie: string }> {
    const configuration = await this.configuration(settings)
    const [cookie, state, nonce] = [newSecret(), client.randomState(), client.randomNonce()]
    const verifier = client.randomPKCECodeVerifier()
    const url = client.buildAuthorizationUrl(configuration, {
      redirect_uri: back,
      scope: 'openid profile email',
      code_challenge: await client.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
      state,
      nonce,
    })
    const now = Date.now()
    for (const [key, each] of this.underway) if (now - each.at > longest || this.underway.size >= most) this.underway.delete(key)
    this.underway.set(cookie, { state, nonce, verifier, to, at: now })
    return { url: url.href, cookie }
  }

  /** Who comes back; each answer is taken once. @throws StoreError where anything of it is not as it was asked for */
  async finish(settings: ProviderSettings, answer: URL, cookie: string): Promise<{ claimed: Claimed; to: string }> {
    const own = this.underway.get(cookie)
    this.underway.delete(cookie)
    const again = 'Signing in was not finished in this browser, or took too long; begin it again.'
    if (!own || Date.now() - own.at > longest) throw new StoreError(again, 401)
    if (!sameText(answer.searchParams.get('state') ?? '', own.state)) throw new StoreError(again, 401)
    const configuration = await this.configuration(settings)
    try {
      const tokens = await client.authorizationCodeGrant(configuration, answer, {
        pkceCodeVerifier: own.verifier,
        expectedState: own.state,
        expectedNonce: own.nonce,
        idTokenExpected: true,
      })
      const claims = tokens.claims()!
      const about = configuration.serverMetadata().userinfo_endpoint
        ? await client.fetchUserInfo(configuration, tokens.access_token, claims.sub)
        : {}
      return { claimed: claimedOf({ ...about, ...claims }, settings), to: own.to }
    } catch (error) {
      throw new StoreError(`${settings.name} has not signed you in (${reason(error)}); begin it again.`, 401)
    }
  }

  /** Where the browser goes to be signed out there too; nothing where the provider knows no such place. */
  async leave(settings: ProviderSettings, back: string): Promise<string | undefined> {
    const configuration = await this.configuration(settings).catch(() => undefined)
    if (!configuration?.serverMetadata().end_session_endpoint) return undefined
    return client.buildEndSessionUrl(configuration, { post_logout_redirect_uri: back }).href
  }
}

function claimedOf(claims: Record<string, unknown>, { claim }: ProviderSettings): Claimed {
  const textOf = (key: string) => (typeof claims[key] === 'string' ? claims[key] : '')
  const groups = claim ? claims[claim] : undefined
  const mail = claims.email_verified === true ? textOf('email').toLowerCase() : ''
  return {
    subject: `${textOf('iss')} ${textOf('sub')}`,
    name: (textOf('name') || textOf('preferred_username') || textOf('email') || textOf('sub')).slice(0, 200),
    ...(mail ? { mail } : {}),
    groups: Array.isArray(groups) ? groups.filter(each => typeof each === 'string') : typeof groups === 'string' ? [groups] : [],
  }
}

/** Why something failed, in few words: what a provider writes is not repeated. */
function reason(error: unknown): string {
  const { code, cause } = error as { code?: string; cause?: unknown }
  if (error instanceof client.ResponseBodyError) return error.error.slice(0, 60)
  if (error instanceof client.AuthorizationResponseError) return error.error.slice(0, 60)
  if (typeof code === 'string')
    return code
      .toLowerCase()
      .replaceAll('_', ' ')
      .replace(/^oauth /, '')
  return cause instanceof Error ? cause.message.slice(0, 80) : 'no answer'
}
