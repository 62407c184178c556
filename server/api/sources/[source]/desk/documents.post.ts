import { LRUCache } from 'lru-cache'
import { StoreError } from '../../../../store/records'

/** Documents that were posted last, by the key that their form made: a second click posts nothing. */
const posted = new LRUCache<string, Promise<string>>({ max: 5000 })

/** Posts a document at the desk of a source. One whose form has made a key is posted once, however often it is sent. */
export default route(async (context, event, app) => {
  const { key, ...document } = await bodyOf(event, 'desk')
  const desk = await deskOf(context, event, app)
  // packs may wait for a period to be closed
  const told = (number: string) => (void app.schedule.look(), { number })
  if (key === undefined) return told(await desk.post(context, document))
  if (typeof key !== 'string' || !/^[\w-]{8,64}$/.test(key)) throw new StoreError('The key of the document is none that a form makes.', 422)
  const own = `${partOf(event, 'source')} ${key}`
  let number = posted.get(own)
  if (!number) {
    // it goes on when whoever posted it leaves
    number = desk.post({ person: context.person }, document)
    posted.set(own, number)
    number.catch(() => posted.delete(own))
  }
  return told(await number)
})
