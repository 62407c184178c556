import { type MailSettings, sameMailServer } from '../../../core/pack/outside'
import { mailRecord } from '../../packs/outside'

/** Says where letters go; with nothing said, they go to the outbox. Without a new password, the one that is kept stays. */
export default route(async (context, event, app) => {
  const { basedOn, settings } = await bodyOf(event, 'mail')
  if (!settings) {
    const version = await app.store.company.saveMail(context, null, basedOn)
    await writeDown(context, event, app, 'mail server changed', { what: 'none' })
    return { version }
  }
  const { password, ...said } = settings as MailSettings
  const { value: before } = await app.store.company.mail(context)
  const sealed = password ? app.secrets.seal(mailRecord, password) : sameMailServer(before, said) ? before!.password : undefined
  const version = await app.store.company.saveMail(context, { ...said, ...(sealed ? { password: sealed } : {}) }, basedOn)
  await writeDown(context, event, app, 'mail server changed', { what: said.host })
  return { version }
})
