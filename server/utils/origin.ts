import type { H3Event } from 'h3'
import { originAt } from './place'

/** The address by which whoever asks reaches this server; the host that the request names has been looked at before. */
export const originOf = (event: H3Event): string => originAt(getRequestHeader(event, 'host') ?? '')
