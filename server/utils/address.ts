import type { H3Event } from 'h3'
import { addressBehind, isLoopback } from './place'

/** The address that a request comes from. */
export const addressOf = (event: H3Event): string =>
  addressBehind(event.node.req.socket.remoteAddress ?? '', getRequestHeader(event, 'x-forwarded-for'))

/** Does a request come from this machine, to a server that answers nobody else? A proxy in front of it would bring others in. */
export const fromThisMachine = (event: H3Event): boolean =>
  isLoopback(event.node.req.socket.remoteAddress ?? '') &&
  !process.env.ESTANTE_HOST &&
  !process.env.ESTANTE_ORIGIN &&
  getRequestHeader(event, 'x-forwarded-for') === undefined &&
  getRequestHeader(event, 'forwarded') === undefined
