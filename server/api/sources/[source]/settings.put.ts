import { ValidationError } from 'yup'
import { faultOf } from '../../../../core/value/checking'
import { readSettings } from '../../../../core/books/settings'
import { settingsFault } from '../../../../core/model/settings'
import { StoreError } from '../../../store/records'

/** Keeps relations, captions, formats, calculated fields and the books with the source, on the version that was seen. */
export default route(async (context, event, app) => {
  const source = partOf(event, 'source')
  const { settings, basedOn } = await bodyOf(event, 'settings')
  try {
    const value = readSettings(settings)
    const fault = settingsFault(value, await app.sources.get(source).catalog(context))
    if (fault) throw new StoreError(fault, 422)
    return { value, version: await app.sources.saveSettings(context, source, value, basedOn) }
  } catch (error) {
    if (error instanceof ValidationError) throw new StoreError(`The settings of the source have a fault: ${faultOf(error)}.`, 422)
    throw error
  }
})
