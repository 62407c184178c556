import type { H3Event } from 'h3'

/** The address that a request comes from. */
export const addressOf = (event: H3Event): string => event.node.req.socket.remoteAddress ?? ''
