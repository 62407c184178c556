import type { H3Event } from 'h3'

/** The address that a request comes from. */
export const addressOf = (event: H3Event): string => event.node.req.socket.remoteAddress ?? ''

/** Does a request come from this machine, to a server that answers nobody else? A proxy in front of it would bring others in. */
export const fromThisMachine = (event: H3Event): boolean =>
  /^(127\.\d+\.\d+\.\d+|::1|::ffff:127\.\d+\.\d+\.\d+)$/.test(addressOf(event)) &&
  !process.env.ESTANTE_HOST &&
  !process.env.ESTANTE_ORIGIN &&
  getRequestHeader(event, 'x-forwarded-for') === undefined &&
  getRequestHeader(event, 'forwarded') === undefined
