import { ValidationError } from 'yup'
import { noSettings, readSettings, type SourceSettings } from '../../../core/books/settings'
import { StoreError } from '../../store/store'
import { booksOf } from '../../utils/books'

/** The same for what somebody is about to say: looked at before it is kept. */
export default route(async (event, app) => {
  const { ledger, fiscalYear } = await jsonBody<Pick<SourceSettings, 'ledger' | 'fiscalYear'>>(event, () => true)
  try {
    return await booksOf(app, readSettings({ ...noSettings, ...(ledger ? { ledger } : {}), ...(fiscalYear ? { fiscalYear } : {}) }))
  } catch (error) {
    if (error instanceof ValidationError) throw new StoreError(`The books are not said in full: ${error.errors[0]}.`, 422)
    throw error
  }
})
