import { PrintError, printerSays } from '../../packs/print/ipp'
import { StoreError } from '../../store/records'

/** Asks a printer who it is and how it is. */
export default route(async (_context, event, _app) => {
  const { address } = await bodyOf(event, 'printerTest')
  try {
    return await printerSays({ address })
  } catch (error) {
    if (error instanceof PrintError) throw new StoreError(`The printer does not answer as one: ${error.message.replace(/\.?$/, '.')}`, 422)
    throw error
  }
})
