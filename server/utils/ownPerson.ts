import type { H3Event } from 'h3'
import type { Person } from '../../core/api/people'
import type { Context } from '../access/context'
import { StoreError } from '../store/records'

/** Whoever sits at the browser: no program does for them what only they can. @throws StoreError */
export function ownPerson({ signedIn }: Context, event: H3Event): Person {
  if (!signedIn) throw new StoreError('You are not signed in, or your session has ended; sign in.', 401)
  if (getRequestHeader(event, 'authorization') !== undefined)
    throw new StoreError('This is done on the page of Estante itself, not by a program with a token.', 403)
  return signedIn
}
