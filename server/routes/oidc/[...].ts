import { StoreError } from '../../store/records'

/** A refresh address is asked for its rows and nothing else. */
export default route(() => {
  throw new StoreError('There is no such refresh address; copy it whole, or ask the report’s author for a new one.', 404)
})
