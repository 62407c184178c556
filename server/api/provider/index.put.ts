import { ValidationError } from 'yup'
import { faultOf } from '../../../core/value/checking'
import { type ProviderSettings, providerShape } from '../../access/provider'
import { StoreError } from '../../store/records'

/** Says who signs people in beside Estante; with nothing said, nobody does. Without a new secret, the one that is kept stays. */
export default route(async (context, event, app) => {
  const { basedOn, settings } = await bodyOf(event, 'provider')
  if (!Object.keys(settings).length) {
    const version = await app.store.saveProvider(context, null, basedOn)
    await writeDown(context, event, app, 'provider changed', { what: 'none' })
    return { version }
  }
  let said: ProviderSettings
  try {
    said = providerShape.validateSync(settings, { strict: true }) as ProviderSettings
  } catch (error) {
    if (error instanceof ValidationError) throw new StoreError(`The provider is not said in full: ${faultOf(error)}.`, 422)
    throw error
  }
  const { value: before } = await app.store.provider(context)
  if (!said.secret && !before) throw new StoreError('Say the secret that the provider has given for Estante.', 422)
  const next = { ...said, secret: said.secret ? app.provider.seal(said.secret) : before!.secret }
  // one that cannot be reached is not kept: nobody could sign in any more
  await app.provider.start(next, `${originOf(event)}/oidc/callback`, '/')
  const version = await app.store.saveProvider(context, next, basedOn)
  await writeDown(context, event, app, 'provider changed', { what: said.issuer, role: said.only ? 'the only way' : 'beside passwords' })
  return { version }
})
