import { setFlagsFromString } from 'node:v8'
import { machineSentence } from '../failures'
import { estante } from '../utils/app'
import { namedOrigin, placeFault } from '../utils/place'

/** The library is shown first; the threads of runs begin so many milliseconds after, or with the first run. */
const restful = 1500

/** Opens the data folder when the server starts, tells its address, and lets go of it at the end. */
export default defineNitroPlugin(nitro => {
  // V8 would collect the garbage of a program at rest again and again, at more than one percent of a core
  setFlagsFromString('--no-memory-reducer')
  const fault = placeFault()
  if (fault) {
    console.error(fault)
    process.exit(2)
  }
  const port = process.env.NITRO_PORT ?? process.env.PORT ?? '3000'
  const own = `http://127.0.0.1:${port}`
  const start = estante().then(app => {
    // the command line asks here
    app.tellAddress(process.env.ESTANTE_TLS_CERT ? (namedOrigin() ?? own) : own)
    console.log('Estante is ready.')
    void app.people.any().then(some => {
      if (!some && (!app.comesWithDemo || namedOrigin()))
        console.log(
          `Nobody is here yet, and nothing answers until somebody is. Make the first administrator at ` +
            `${namedOrigin() ?? own}/first?key=${app.firstLink.key}`,
        )
    })
    setTimeout(() => [app.pool, app.planner].forEach(each => each.warm()), restful).unref()
    return app
  })
  start.catch((error: Error) => {
    console.error(machineSentence(error) ?? error.message)
    process.exit(2)
  })
  nitro.hooks.hook('close', async () => (await start).close())
  for (const signal of ['SIGTERM', 'SIGINT'] as const) {
    process.once(signal, () => void start.then(app => app.close()).finally(() => process.exit(0)))
  }
})
