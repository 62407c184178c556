import { expect, it } from 'vitest'
import { type MailSettings, mailShape, sameMailServer, senderAddress } from './outside'

const server: MailSettings = { host: 'mail.harbour.example', port: 587, security: 'starttls', user: 'estante', from: 'a@harbour.example' }

it('a password goes to the server that it was given for, as well kept as before, and to no other', () => {
  expect(sameMailServer(server, { ...server, from: 'b@harbour.example', perMinute: 30 })).toBe(true)
  const others: Partial<MailSettings>[] = [{ host: 'mail.other.example' }, { port: 25 }, { user: 'other' }, { security: 'none' }]
  for (const other of others) expect(sameMailServer(server, { ...server, ...other })).toBe(false)
  expect([sameMailServer(null, server), sameMailServer(undefined, server)]).toEqual([false, false])
})

it('what is no server or sender is refused, and the address of a sender is found', () => {
  expect(mailShape.isValidSync(server)).toBe(true)
  const wrong = [
    { host: 'a b' },
    { port: 0 },
    { port: 65_536 },
    { security: 'ssl' },
    { from: 'nobody' },
    { from: 'Nobody <nobody>' },
    { more: 1 },
  ]
  for (const each of wrong) expect([each, mailShape.isValidSync({ ...server, ...each }, { strict: true })]).toEqual([each, false])
  expect([senderAddress('Accounts <a@x.example>'), senderAddress(' a@x.example ')]).toEqual(['a@x.example', 'a@x.example'])
})
