import { ValidationError } from 'yup'
import { faultOf } from '../../../../core/value/checking'
import { noSettings, readSettings } from '../../../../core/books/settings'
import { StoreError } from '../../../store/records'

/** The same for what somebody is about to say: looked at before it is kept. */
export default route(async (context, event, app) => {
  const { ledger, fiscalYear } = await bodyOf(event, 'books')
  try {
    const said = readSettings({ ...noSettings, ...(ledger ? { ledger } : {}), ...(fiscalYear ? { fiscalYear } : {}) })
    return await booksOf(context, app, partOf(event, 'source'), said)
  } catch (error) {
    if (error instanceof ValidationError) throw new StoreError(`The books are not said in full: ${faultOf(error)}.`, 422)
    throw error
  }
})
