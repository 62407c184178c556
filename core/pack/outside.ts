import { array, number, object, string } from 'yup'
import { name, plain } from '../definition/checks'
import { isMailAddress } from './mailAddress'

/** How a connection to a mail server is kept secret. */
export const mailSecurity = ['none', 'starttls', 'tls'] as const

/** The mail server that letters go to. */
export interface MailSettings {
  host: string
  port: number
  security: (typeof mailSecurity)[number]
  /** who Estante is there; nobody in particular where it lets everybody in */
  user?: string
  /** sealed where it is kept; on its way from the page it is plain, and left out where the kept one stays */
  password?: string
  /** sender, as `Accounts <accounts@company.example>` */
  from: string
  /** letters a minute at most; as fast as the server takes them where nothing is said */
  perMinute?: number
}

/** A printer of the company. */
export interface PrinterSettings {
  id: string
  name: string
  /** as ipp://printer.example/ipp/print */
  address: string
}

/** Is it the server that a password was given for, and as well kept from others? To any other it does not go. */
export const sameMailServer = (one: MailSettings | null | undefined, other: MailSettings): boolean =>
  !!one && (['host', 'port', 'user', 'security'] as const).every(key => one[key] === other[key])

/** The address in a sender: within <>, or all of it. */
export const senderAddress = (from: string): string => /<([^<>]*)>\s*$/.exec(from)?.[1] ?? from.trim()

export const mailShape = object({
  host: name.matches(/^[\w.:-]+$/, 'host must be a name such as mail.company.example'),
  port: number().strict().integer().required().min(1).max(65_535),
  security: string()
    .oneOf([...mailSecurity])
    .required(),
  user: plain.max(320),
  password: plain.max(1000),
  from: name.test('sender', 'from must be an address such as accounts@company.example', from => isMailAddress(senderAddress(from ?? ''))),
  perMinute: number().strict().integer().min(1).max(100_000),
}).noUnknown()

export const printersShape = array(
  object({
    id: name.max(60),
    name: name.max(120),
    address: name.matches(
      /^(ipps?|https?):\/\/[^\s/]+/,
      ({ path }: { path: string }) => `${path} must be one such as ipp://printer.example/ipp/print`,
    ),
  }).noUnknown(),
)
  .required()
  .max(100)
