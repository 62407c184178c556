import { isLoopback, isOwnHost, namedOrigin, originAt } from '../utils/place'

/**
 * A request under another name (Host) than this server has is refused, and one that changes something unless it comes from this very
 * address (Origin): pages on other ports of the machine share its cookies, and only their origin tells them apart.
 */
export default defineEventHandler(event => {
  const host = getRequestHeader(event, 'host') ?? ''
  const origin = getRequestHeader(event, 'origin')
  const site = getRequestHeader(event, 'sec-fetch-site')
  for (const [name, value] of Object.entries(headers)) setResponseHeader(event, name, value)
  if (namedOrigin()?.startsWith('https:')) setResponseHeader(event, 'strict-transport-security', 'max-age=31536000')
  if (!isOwnHost(host, isLoopback(event.node.req.socket.remoteAddress ?? '')))
    return refuse(event, `Estante answers only under ${namedOrigin() ?? '127.0.0.1 or localhost'}, not “${host.slice(0, 80)}”.`)
  if (origin && origin !== originAt(host)) return refuse(event, `Estante takes no requests from other pages (“${origin.slice(0, 80)}”).`)
  const changes = event.method !== 'GET' && event.method !== 'HEAD'
  // a program that brings a token is no page of another's: a browser would have asked first, and been refused
  const byToken = getRequestHeader(event, 'authorization') !== undefined
  if (changes && !origin && !byToken) return refuse(event, 'Estante takes changes only with the Origin of its own address.')
  const served = /^\/(api|refresh|oidc)(?=[/?]|$)(\/.)?/.exec(event.path)
  if (served && !served[2]) return refuse(event, 'There is nothing at this address of Estante; copy it whole.', 404)
  if (changes && !served) return refuse(event, `A page of Estante is read with GET, not with ${event.method}.`, 405)
  // another page may lead here, and nothing else: what it embeds or fetches is refused
  const leads = getRequestHeader(event, 'sec-fetch-mode') === 'navigate' && getRequestHeader(event, 'sec-fetch-dest') === 'document'
  if (site && site !== 'same-origin' && site !== 'none' && !(leads && !changes && !event.path.startsWith('/api/')))
    return refuse(event, 'Estante takes no requests from other pages.')
})

const headers = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'SAMEORIGIN',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'permissions-policy': 'camera=(), microphone=(), geolocation=()',
} as const

function refuse(event: Parameters<typeof setResponseStatus>[0], message: string, status = 403) {
  setResponseStatus(event, status)
  return { message }
}
