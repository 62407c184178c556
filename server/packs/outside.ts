import { ownContext } from '../access/context'
import type { Secrets } from '../store/secrets'
import type { Store } from '../store/store'
import type { MailServer } from './mail'
import type { Outbox } from './outbox'
import type { Printer } from './print/ipp'
import type { PrinterStandIn } from './print/standIn'

/** Binds the sealed password to where it belongs. */
export const mailRecord = 'mail server'
/** Id of the printer that ships with the program. */
export const standInId = 'stand-in'

/** The mail server that letters go to: the one that is named, or the outbox. @throws StoreError where its password cannot be read */
export async function mailServerOf(
  store: Store,
  outbox: Outbox,
  secrets: Pick<Secrets, 'open'>,
): Promise<MailServer & { perMinute?: number }> {
  const { value } = await store.company.mail(ownContext)
  if (!value) return { host: '127.0.0.1', port: await outbox.port(), security: 'none', from: 'Estante <estante@estante.local>' }
  const { password, ...rest } = value
  return { ...rest, ...(password ? { password: secrets.open(mailRecord, password) } : {}) }
}

/** All printers: those that are named, and the one that ships with the program. */
export async function printersOf(store: Store): Promise<{ id: string; name: string }[]> {
  const { value } = await store.company.printers(ownContext)
  return [...value.map(({ id, name }) => ({ id, name })), { id: standInId, name: 'Stand-in printer' }]
}

export async function printerOf(store: Store, standIn: PrinterStandIn, id: string): Promise<Printer | undefined> {
  if (id === standInId) return { id, name: 'Stand-in printer', address: await standIn.address() }
  return (await store.company.printers(ownContext)).value.find(each => each.id === id)
}
