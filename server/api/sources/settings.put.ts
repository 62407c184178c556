import { ValidationError } from 'yup'
import { readSettings } from '../../../core/books/settings'
import { StoreError } from '../../store/store'

/** Keeps relations, captions, formats and calculated fields with the source. */
export default route(async (event, app) => {
  const body = await jsonBody<object>(event, () => true)
  try {
    await app.saveSettings(readSettings(body))
  } catch (error) {
    if (error instanceof ValidationError) throw new StoreError(`The settings of the source have a fault: ${error.errors[0]}.`, 422)
    throw error
  }
  return app.settings()
})
