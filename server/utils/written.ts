import type { H3Event } from 'h3'
import type { AuditKind } from '../../core/api/audit'
import type { Context } from '../access/context'
import type { Estante } from '../estante'

/** Writes down what a request has done. */
export const writeDown = (context: Context, event: H3Event, app: Estante, kind: AuditKind, about: Record<string, unknown>): Promise<void> =>
  app.store.audit.write(context, kind, about, addressOf(event))
