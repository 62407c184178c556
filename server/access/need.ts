import { holdsRole, type Role } from '../../core/api/people'
import { StoreError } from '../store/records'
import type { Context } from './context'

const words: Record<Role, string> = { reader: 'people who sign in', author: 'authors', administrator: 'administrators' }

/** What somebody is told who may not do what is for a role. */
export const isFor = (role: Role): StoreError => new StoreError(`This is for ${words[role]}; ask an administrator of Estante.`, 403)

/** May whoever asks do what is for a role? Where nobody signs in, whoever sits at the machine may do everything. */
export const mayBe = ({ signedIn }: Context, role: Role): boolean => !signedIn || holdsRole(signedIn.role, role)

/** @throws StoreError where whoever asks may not do what is for a role */
export function need(context: Context, role: Role): void {
  if (!mayBe(context, role)) throw isFor(role)
}
