import { triedServer } from '../../sources/postgres/addServer'
import { saidServer } from '../../utils/said'

/** What is to be found at a server that somebody wants to connect; nothing is kept. */
export default route(async (_context, event) => triedServer(saidServer(await bodyOf(event, 'tryServer'))))
