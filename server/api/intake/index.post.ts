import type { BroughtFile } from '../../../core/api/intake'
import { RequestError } from '../../../core/api/requests'
import { understood } from '../../sources/files/addFiles'

/** Takes the bytes of a file, and says what it holds; of an archive, each of its files. */
export default route(async (context, event, app): Promise<BroughtFile[]> => {
  const { name } = askedOf(event)
  if (!name) throw new RequestError('The file needs its name, as ?name=… in the address.')
  const received = await app.brought.receive(context, name, event.node.req, Number(getHeader(event, 'content-length') ?? 0))
  const brought: BroughtFile[] = []
  try {
    for (const { id, size, file } of received)
      brought.push({ id, name: file.name, size, understood: await understood(file, context.signal ? { signal: context.signal } : {}) })
    return brought
  } catch (error) {
    received.forEach(({ id }) => app.brought.drop(context, id))
    throw error
  }
})
