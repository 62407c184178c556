import { clock } from '../../demo/clock'

/** The source's day and its fiscal calendar. */
export default route(async (_event, app) => ({ today: clock, calendar: (await app.catalog()).calendar }))
