/*
 * Where this server is reached. By itself it answers this machine only; with ESTANTE_HOST it listens on another address, and with
 * ESTANTE_ORIGIN it is named as people reach it: over https, by certificate files (ESTANTE_TLS_CERT, ESTANTE_TLS_KEY) or by a proxy in
 * front (ESTANTE_PROXY names its addresses, so that people are told apart behind it).
 */

const loopbackHost = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/

/** The origin by which people reach it, where that is said: without a path. */
export const namedOrigin = (): string | undefined => process.env.ESTANTE_ORIGIN?.replace(/\/+$/, '') || undefined

/** Why it cannot be started so, in one sentence; nothing where it can. */
export function placeFault(env: NodeJS.ProcessEnv = process.env): string | undefined {
  const { ESTANTE_HOST: host, ESTANTE_ORIGIN: origin, ESTANTE_TLS_CERT: cert, ESTANTE_TLS_KEY: key, ESTANTE_PEOPLE: people } = env
  if (!cert !== !key) return 'ESTANTE_TLS_CERT and ESTANTE_TLS_KEY name the two files of a certificate; name both or neither.'
  const near = !host || /^(127\.\d+\.\d+\.\d+|localhost|::1)$/.test(host)
  if (!near && !origin)
    return `ESTANTE_HOST has it answer at ${host}; say with ESTANTE_ORIGIN how people reach it, such as https://estante.harbour.example.`
  if (!origin) return undefined
  let url: URL
  try {
    url = new URL(origin)
  } catch {
    return `ESTANTE_ORIGIN is “${origin.slice(0, 80)}”, which is no address; write it as https://estante.harbour.example.`
  }
  if (url.pathname !== '/' || url.search || url.hash || url.username)
    return 'ESTANTE_ORIGIN is an address without anything behind the host, such as https://estante.harbour.example.'
  if (url.protocol !== 'https:' && !loopbackHost.test(url.host))
    return 'From other machines Estante is reached over https only: write ESTANTE_ORIGIN with https, and name certificate files or a proxy.'
  if (people === 'none') return 'Without people everybody may do everything; leave ESTANTE_PEOPLE out where others can reach Estante.'
  return undefined
}

/** The host that people write, and that of this machine itself for whoever asks from it. */
export function isOwnHost(host: string, fromHere: boolean): boolean {
  const named = namedOrigin()
  if (named && host === new URL(named).host) return true
  return (!named || fromHere) && loopbackHost.test(host)
}

/** The origin of our own pages under a host that is ours. */
export function originAt(host: string): string {
  const named = namedOrigin()
  if (named && host === new URL(named).host) return named
  return `${process.env.ESTANTE_TLS_CERT ? 'https' : 'http'}://${host}`
}

/** Is it an address of this machine? */
export const isLoopback = (address: string): boolean => /^(127\.\d+\.\d+\.\d+|::1|::ffff:127\.\d+\.\d+\.\d+)$/.test(address)

/** The address that a request comes from: of one that a known proxy has brought, what that says, and nobody else is believed. */
export function addressBehind(address: string, forwarded: string | undefined): string {
  const proxies = (process.env.ESTANTE_PROXY ?? '').split(',').map(each => each.trim())
  const plain = address.replace(/^::ffff:/, '')
  if (!forwarded || !proxies.includes(plain)) return address
  return forwarded.split(',').at(-1)!.trim().slice(0, 60) || address
}
