import { randomUUID } from 'node:crypto'
import { isMailAddress } from '../../../core/pack/mailAddress'
import { type MailSettings, sameMailServer } from '../../../core/pack/outside'
import { MailLine } from '../../packs/mail'
import { mailRecord, mailServerOf } from '../../packs/outside'
import { StoreError } from '../../store/records'

/** Sends a test letter as it is said now, kept or not; what the server says is told in its own words. */
export default route(async (context, event, app) => {
  const { settings, to } = await bodyOf(event, 'mailTest')
  if (!isMailAddress(to)) throw new StoreError(`“${to}” is no mail address; write one such as somebody@company.example.`, 422)
  const { value: before } = await app.store.company.mail(context)
  const said = settings as MailSettings | undefined
  const same = said && sameMailServer(before, said)
  const kept = same && before!.password && !said.password ? { password: app.secrets.open(mailRecord, before!.password) } : {}
  const line = new MailLine(said ? { ...said, ...kept } : await mailServerOf(app.store, app.outbox, app.secrets))
  try {
    const sent = await line.send({
      to: [to],
      subject: 'A test from Estante',
      body: 'This letter was sent from the settings of Estante. Whoever gets packs by mail gets them like this.',
      messageId: `<test-${randomUUID()}@estante.local>`,
      attachments: [],
    })
    await writeDown(context, event, app, 'mail server changed', { what: said?.host ?? 'outbox', state: 'test' })
    return { fine: sent.is === 'sent', said: sent.said }
  } finally {
    line.close()
  }
})
