import { StoreError } from '../store/records'

/** Anything else under /api: there is nothing there, or not for this method. */
export default route((_context, event) => {
  throw new StoreError(`There is nothing at ${event.method} ${event.path.split('?')[0]!.slice(0, 200)}.`, 404)
})
